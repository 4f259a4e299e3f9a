import { newAutomation } from '../../src/core/automation/automation.ts';
import type { Method } from './routes.ts';

/** What the parameter of a path stands for, so that one that is somebody else's can be put there. */
export type Kind =
  | 'board'
  | 'post'
  | 'reply'
  | 'draft'
  | 'send'
  | 'ask'
  | 'check-in'
  | 'person'
  | 'contact'
  | 'group'
  | 'series'
  | 'sender'
  | 'answer'
  | 'question'
  | 'ribbon'
  | 'report'
  | 'device'
  | 'absence'
  | 'holiday'
  | 'audience'
  | 'comment'
  | 'version'
  | 'aside'
  | 'inbox'
  | 'station'
  | 'import'
  | 'session'
  | 'calendar session'
  | 'date'
  | 'followed calendar'
  | 'passkey'
  | 'provider'
  | 'system'
  | 'automation'
  | 'run'
  | 'sheet'
  | 'pattern'
  | 'place'
  | 'record'
  | 'view'
  | 'source'
  | 'identity'
  | 'address'
  | 'token'
  | 'way in'
  | 'way out';

/** Who may at all: anybody without signing in, whoever is signed in, those at the desk, or coordinators. */
export type Who = 'anybody' | 'everybody' | 'desk' | 'coordinators';

export interface Row {
  who: Who;
  ids?: Partial<
    Record<
      'id' | 'person' | 'comment' | 'version' | 'record' | 'identity' | 'address' | 'provider' | 'view',
      Kind
    >
  >;
  query?: string;
  body?: unknown;
}

const document = {
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Hello there' }] }],
};
const post = { title: 'A title', document, image: null, files: [] };
const answers = { name: 'A new place', ownerId: 1, given: {}, atWork: false };
const wall = '2030-03-01T09:00';
export const content = {
  title: 'A title',
  byline: '',
  importance: 'routine',
  sections: [
    { id: 's1', heading: '', accent: 'none', document, image: null, gallery: [], video: null, files: [] },
  ],
  button: null,
  event: null,
  issue: null,
};
export const plan = {
  audience: { kind: 'everyone' },
  mail: true,
  boards: [],
  contacts: false,
  timing: { kind: 'now' },
  ask: { kind: 'nothing' },
};
const brief = { importance: 'routine', event: null, fields: [], mentions: [], sections: 1 };
const series = { name: 'A series', banner: null, heading: '', byline: '', categories: [] };
const draft = { ids: { id: 'draft' }, who: 'desk' } as const;
const send = { ids: { id: 'send' }, who: 'desk' } as const;
const hookIn = {
  name: 'Another system',
  target: { kind: 'board', boardId: 1 },
  senderId: null,
  held: false,
  perMinute: 30,
  mapping: null,
  fields: [],
};
const hookOut = {
  name: 'Another system',
  url: 'https://x.example/events',
  kinds: ['post.up'],
  boardId: null,
};
const onWayIn = { ids: { id: 'way in' }, who: 'everybody' } as const;
const onWayOut = { ids: { id: 'way out' }, who: 'coordinators' } as const;
const ask = { ids: { id: 'ask' }, who: 'everybody' } as const;
const board = { ids: { id: 'board' }, who: 'everybody' } as const;
const onPost = { ids: { id: 'post' }, who: 'everybody' } as const;
const reply = { ids: { id: 'reply' }, who: 'everybody' } as const;
const ownAutomation = { ids: { id: 'automation' }, who: 'desk' } as const;
const ownRun = { ids: { id: 'run' }, who: 'desk' } as const;
const onSheet = { ids: { id: 'sheet' }, who: 'coordinators' } as const;
const followedSource = {
  url: 'http://127.0.0.1:9/',
  header: '',
  everyMinutes: 5,
  rows: '/rows',
  key: '/id',
  gone: '',
  after: '',
  columns: { c1: '/name' },
};
const keptView = {
  name: 'A view',
  shared: true,
  view: { if: { kind: 'all', of: [] }, order: [], hidden: [] },
};
const sheetShape = {
  name: 'A sheet',
  purpose: '',
  columns: [{ id: 'c1', name: 'Name', kind: 'text', unit: '', choices: [] }],
  form: null,
};
const source = {
  name: 'A source',
  url: 'http://127.0.0.1:1/at?place={place}',
  header: '',
  fields: [{ name: 'river', pointer: '/river', kind: 'number', unit: '' }],
  keepMinutes: 0,
};
const automation = newAutomation('Another', { kind: 'joins', groupId: 1 });
const calendarSession = { ids: { id: 'calendar session' }, who: 'coordinators' } as const;
const EMPTY_CALENDAR = 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\nEND:VCALENDAR\r\n';
const onFollowed = { ids: { id: 'followed calendar' }, who: 'coordinators' } as const;
const followed = {
  url: null,
  text: EMPTY_CALENDAR,
  name: 'A calendar',
  everyMinutes: 60,
  audience: { kind: 'everyone' },
  remindMinutes: null,
};
const onDate = { ids: { id: 'date' }, who: 'everybody' } as const;
const lookedAfter = { ids: { id: 'date' }, who: 'coordinators' } as const;
const session = {
  title: 'A session',
  text: '',
  wall,
  zone: 'Europe/London',
  minutes: 60,
  place: 'Here',
  link: '',
  rule: null,
  audience: { kind: 'everyone' },
  capacity: null,
  remindMinutes: null,
};
const checkIn = { ids: { id: 'check-in' }, who: 'everybody' } as const;

/**
 * Every endpoint, with who may use it, what its address names and a body that fits. An endpoint that is not here fails the test,
 * so that none is added without saying whose it is.
 */
export const TABLE: Record<`${Method} ${string}`, Row> = {
  'GET /api/announcements/[id]': draft,
  'PUT /api/announcements/[id]': { ...draft, body: { content, plan, revision: 1, saveOver: false } },
  'DELETE /api/announcements/[id]': draft,
  'POST /api/announcements': { who: 'desk' },
  'GET /api/announcements/[id]/changes/[version]': { ...draft, ids: { id: 'draft', version: 'version' } },
  'GET /api/announcements/[id]/texts/[version]': { ...draft, ids: { id: 'draft', version: 'version' } },
  'GET /api/announcements/[id]/comments': draft,
  'POST /api/announcements/[id]/comments': { ...draft, body: { text: 'hello', mentions: [] } },
  'PUT /api/announcements/[id]/comments/[comment]': {
    ...draft,
    ids: { id: 'draft', comment: 'comment' },
    body: { settled: true },
  },
  'POST /api/announcements/[id]/copy': draft,
  'GET /api/announcements/[id]/correct': draft,
  'POST /api/announcements/[id]/correct': {
    ...draft,
    body: { revision: 1, note: 'A word', tell: 'nobody', askAgain: false },
  },
  'GET /api/announcements/[id]/history': draft,
  'POST /api/announcements/[id]/leave': draft,
  'GET /api/announcements/[id]/mail': { ...draft, query: 'person=1&part=text' },
  'GET /api/announcements/[id]/reader': { ...draft, query: 'person=1' },
  'GET /api/announcements/[id]/rehearsal.csv': draft,
  'GET /api/announcements/[id]/rehearsal': { ...draft, query: 'within=2&links=no' },
  'GET /api/announcements/[id]/rehearsal/people': { ...draft, query: 'filter=all&search=a' },
  'POST /api/announcements/[id]/open': { who: 'desk', ids: { id: 'draft' } },
  'DELETE /api/announcements/[id]/open': { who: 'desk', ids: { id: 'draft' } },
  'GET /api/announcements/[id]/reviewers': { who: 'desk', ids: { id: 'draft' } },
  'GET /api/announcements/[id]/sharing': { who: 'desk', ids: { id: 'draft' } },
  'PUT /api/announcements/[id]/sharing': {
    who: 'desk',
    ids: { id: 'draft' },
    body: { personId: 1, shared: false },
  },
  'POST /api/announcements/[id]/review': { ...draft, body: { step: 'hand on', revision: 1 } },
  'POST /api/announcements/[id]/send': { ...draft, body: { revision: 1 } },
  'POST /api/announcements/[id]/template': draft,
  'POST /api/announcements/[id]/test': draft,
  'POST /api/asks/[id]/answer': { ...ask, body: {} },
  'GET /api/asks/[id]/ballots': ask,
  'GET /api/asks/[id]/ballots.csv': ask,
  'GET /api/asks/[id]/box': ask,
  'POST /api/asks/[id]/chase': { ...ask, who: 'everybody' },
  'POST /api/asks/[id]/close': ask,
  'GET /api/asks/[id]': ask,
  'POST /api/asks/[id]/options': { ...ask, body: { label: 'Another', at: null } },
  'GET /api/asks/[id]/people': { ...ask, query: 'part=all&search=a' },
  'GET /api/asks/[id]/results': ask,
  'GET /api/asks/[id]/roll.csv': ask,
  'GET /api/asks': { who: 'everybody' },
  'GET /api/authors': { who: 'everybody', query: 'q=a' },
  'PUT /api/boards/[id]/follow': { ...board, body: { choice: 'follow' } },
  'GET /api/boards/[id]': { ...board, query: 'postedMs=1700000000000&id=5' },
  'PUT /api/boards/[id]/links': { ...board, body: { links: [{ label: 'A', url: 'https://a.example' }] } },
  'PUT /api/boards/[id]/moderators': { ...board, body: { personId: 6, moderates: true } },
  'GET /api/boards/[id]/callable': board,
  'GET /api/boards/[id]/members': { ...board, query: 'q=a' },
  'GET /api/boards/[id]/names': { ...board, query: 'q=a' },
  'PUT /api/boards/[id]/pins': { ...board, body: { ids: [1, 2] } },
  'POST /api/boards/[id]/posts': { ...board, body: post },
  'GET /api/boards/[id]/files': board,
  'PUT /api/boards/[id]/files': { ...board, body: { key: 'a'.repeat(22), archived: true } },
  'GET /api/boards/[id]/place': board,
  'GET /api/boards/[id]/reach': board,
  'PUT /api/boards/[id]/seen': { ...board, body: { toMs: 1_700_000_000_000 } },
  'GET /api/boards/[id]/settings': board,
  'PUT /api/boards/[id]/settings': { ...board, body: { name: 'Another name', sectionLimit: 10 } },
  'GET /api/boards': { who: 'everybody' },
  'GET /api/calendar': { who: 'everybody', query: 'all=yes' },
  'POST /api/calendar': { who: 'coordinators', body: session },
  'POST /api/calendar/tried': {
    who: 'coordinators',
    body: { wall, zone: 'Europe/London', rule: null, audience: null },
  },
  'POST /api/announcements/from-file': { who: 'desk', body: { text: '# A title\n\nA text.' } },
  'GET /api/calendar/followed': { who: 'coordinators' },
  'POST /api/calendar/followed': { who: 'coordinators', body: followed },
  'POST /api/calendar/followed/tried': { who: 'coordinators', body: { url: null, text: EMPTY_CALENDAR } },
  'PUT /api/calendar/followed/[id]': { ...onFollowed, body: { ...followed, text: null, revision: 1 } },
  'DELETE /api/calendar/followed/[id]': { ...onFollowed, query: 'keep=yes' },
  'POST /api/calendar/followed/[id]/reading': onFollowed,
  'GET /api/calendar/[id]': calendarSession,
  'PUT /api/calendar/[id]': { ...calendarSession, body: { ...session, revision: 1 } },
  'POST /api/calendar/[id]/call-off': { ...calendarSession, body: { note: '' } },
  'GET /api/calendar/dates/[id]': onDate,
  'PUT /api/calendar/dates/[id]': {
    ...lookedAfter,
    body: { wall, minutes: 60, place: 'Here', link: '', note: '' },
  },
  'PUT /api/calendar/dates/[id]/said': { ...onDate, body: { said: 'yes' } },
  'POST /api/calendar/dates/[id]/call-off': { ...lookedAfter, body: { note: '' } },
  'DELETE /api/calendar/dates/[id]/call-off': lookedAfter,
  'POST /api/calendar/dates/[id]/announce': lookedAfter,
  'POST /api/calendar/dates/[id]/board': lookedAfter,
  'GET /api/calendar/dates/[id]/people': { ...lookedAfter, query: 'stands=all' },
  'GET /api/calendar/dates/[id]/people.csv': lookedAfter,
  'GET /api/calendar/dates/[id]/event.ics': onDate,
  'POST /api/me/sessions-feed': { who: 'everybody' },
  'POST /api/me/news-feeds': { who: 'everybody' },
  'POST /api/boards': {
    who: 'coordinators',
    body: { name: 'A board', about: 'What it is for', purpose: 'talk', groupId: null },
  },
  'GET /api/told/hours': { who: 'desk' },
  'PUT /api/boards/order': { who: 'coordinators', body: { ids: [1, 2] } },
  'GET /api/check-ins/[id]/history': { ...checkIn, query: 'search=a&from=2026-01-01&to=2026-12-31' },
  'GET /api/check-ins/[id]': checkIn,
  'GET /api/check-ins/[id]/people/[person]': { ...checkIn, ids: { id: 'check-in', person: 'person' } },
  'POST /api/check-ins/[id]/people/[person]/replies': {
    ...checkIn,
    ids: { id: 'check-in', person: 'person' },
    body: { text: 'A reply', unblocks: false },
  },
  'POST /api/check-ins/[id]/people/[person]/unblocked': {
    ...checkIn,
    ids: { id: 'check-in', person: 'person' },
  },
  'POST /api/count': { who: 'desk', body: { audience: { kind: 'group', id: 1 } } },
  'POST /api/for-me/[id]/acknowledge': { ...ask, ids: { id: 'ask' } },
  'GET /api/for-me': {
    who: 'everybody',
    query: 'inboxMs=1700000000000&inboxId=4&postsMs=1700000000000&postsId=4',
  },
  'PUT /api/for-me/read': { who: 'everybody' },
  'PUT /api/for-me/welcomed': { who: 'everybody' },
  'POST /api/forecast': { who: 'desk', body: { plan, brief } },
  'PUT /api/groups/[id]/calling': { who: 'coordinators', ids: { id: 'group' }, body: { callable: true } },
  'GET /api/groups/counts': { who: 'desk', query: 'ids=1,2' },
  'GET /api/groups': { who: 'desk' },
  'POST /api/groups': { who: 'coordinators', body: { name: 'A group', rule: null } },
  'POST /api/groups/rule': { who: 'coordinators', body: { rule: { kind: 'everyone' } } },
  'GET /api/patterns': { who: 'coordinators' },
  'POST /api/patterns': {
    who: 'coordinators',
    body: { name: 'A place', about: '', boardId: 5, called: 'Thanks', parts: ['board:5'], blanks: [] },
  },
  'GET /api/patterns/[id]': { who: 'coordinators', ids: { id: 'pattern' } },
  'PUT /api/patterns/[id]': {
    who: 'coordinators',
    ids: { id: 'pattern' },
    body: { name: 'A place like others', about: '' },
  },
  'DELETE /api/patterns/[id]': { who: 'coordinators', ids: { id: 'pattern' } },
  'PUT /api/patterns/[id]/anew': {
    who: 'coordinators',
    ids: { id: 'pattern' },
    body: { number: 1, called: 'Thanks', parts: ['board:5'], blanks: [] },
  },
  'POST /api/patterns/[id]/look': { who: 'coordinators', ids: { id: 'pattern' }, body: { answers } },
  'POST /api/patterns/[id]/places': {
    who: 'coordinators',
    ids: { id: 'pattern' },
    body: { number: 1, answers },
  },
  'GET /api/patterns/places/[id]': { who: 'coordinators', ids: { id: 'place' } },
  'DELETE /api/patterns/places/[id]': { who: 'coordinators', ids: { id: 'place' } },
  'POST /api/patterns/places/[id]/changes': {
    who: 'coordinators',
    ids: { id: 'place' },
    body: { number: 1, parts: [] },
  },
  'GET /api/boards/[id]/pattern': { who: 'coordinators', ids: { id: 'board' } },
  'GET /api/automations': { who: 'desk' },
  'POST /api/automations': {
    who: 'desk',
    body: { name: 'Another', when: { kind: 'joins', groupId: 1 } },
  },
  'GET /api/automations/[id]': ownAutomation,
  'PUT /api/automations/[id]': { ...ownAutomation, body: { revision: 1, automation } },
  'DELETE /api/automations/[id]': ownAutomation,
  'GET /api/automations/[id]/versions/[version]': {
    who: 'desk',
    ids: { id: 'automation', version: 'version' },
  },
  'POST /api/automations/[id]/publish': { ...ownAutomation, body: { revision: 1 } },
  'PUT /api/automations/[id]/state': { ...ownAutomation, body: { on: false } },
  'PUT /api/automations/[id]/people': { ...ownAutomation, body: { people: [] } },
  'POST /api/automations/[id]/copy': ownAutomation,
  'POST /api/automations/[id]/owner': { ...ownAutomation, who: 'coordinators' },
  'POST /api/automations/[id]/trial': {
    ...ownAutomation,
    body: { automation, personId: null, recordId: null },
  },
  'POST /api/automations/[id]/trial/send': {
    ...ownAutomation,
    body: { automation, personId: null, recordId: null },
  },
  'POST /api/automations/[id]/replay': { ...ownAutomation, body: automation },
  'GET /api/automations/[id]/run': ownAutomation,
  'POST /api/automations/[id]/run': ownAutomation,
  'GET /api/tokens': { who: 'desk' },
  'POST /api/tokens': {
    who: 'desk',
    body: { name: 'A program', scopes: ['people:read'], days: 30 },
  },
  'DELETE /api/tokens/[id]': { who: 'desk', ids: { id: 'token' } },
  'GET /api/gateways/in': { who: 'everybody' },
  'POST /api/gateways/in': {
    who: 'everybody',
    body: { ...hookIn, target: { kind: 'board', boardId: 999_999 } },
  },
  'GET /api/gateways/in/[id]': onWayIn,
  'PUT /api/gateways/in/[id]': { ...onWayIn, body: { ...hookIn, revision: 1 } },
  'DELETE /api/gateways/in/[id]': onWayIn,
  'PUT /api/gateways/in/[id]/state': { ...onWayIn, body: { on: false } },
  'POST /api/gateways/in/[id]/secret': onWayIn,
  'GET /api/gateways/out': { who: 'coordinators' },
  'POST /api/gateways/out/filled': { who: 'coordinators', body: { template: '{}' } },
  'POST /api/gateways/out': { who: 'coordinators', body: hookOut },
  'GET /api/gateways/out/[id]': onWayOut,
  'PUT /api/gateways/out/[id]': { ...onWayOut, body: { ...hookOut, revision: 1 } },
  'DELETE /api/gateways/out/[id]': onWayOut,
  'PUT /api/gateways/out/[id]/state': { ...onWayOut, body: { on: false } },
  'POST /api/gateways/out/[id]/secret': onWayOut,
  'POST /api/gateways/out/[id]/trial': onWayOut,
  'POST /api/gateways/out/[id]/again': { ...onWayOut, body: { id: 1 } },
  'POST /hooks/[key]': { who: 'anybody', body: { title: 'x', text: 'x' } },
  'GET /api/runs': { who: 'coordinators' },
  'GET /api/runs/[id]': ownRun,
  'POST /api/runs/[id]/again': ownRun,
  'GET /api/sends/[id]/text': { who: 'desk', ids: { id: 'send' }, query: 'as=eml' },
  'GET /api/boards/[id]/texts': { who: 'everybody', ids: { id: 'board' }, query: 'as=eml' },
  'GET /api/series/[id]/texts': { who: 'desk', ids: { id: 'series' }, query: 'as=md' },
  'GET /api/senders': { who: 'desk' },
  'POST /api/senders': { who: 'desk', body: { name: 'Another desk' } },
  'PUT /api/senders/[id]': { who: 'coordinators', ids: { id: 'sender' }, body: { name: 'Changed desk' } },
  'DELETE /api/senders/[id]': { who: 'coordinators', ids: { id: 'sender' } },
  'GET /api/sheets': { who: 'desk' },
  'POST /api/sheets': { who: 'coordinators', body: sheetShape },
  'GET /api/sheets/[id]': { ...onSheet, who: 'desk' },
  'PUT /api/sheets/[id]': { ...onSheet, body: { revision: 1, shape: sheetShape } },
  'DELETE /api/sheets/[id]': onSheet,
  'PUT /api/sheets/[id]/rights': { ...onSheet, body: { seenBy: 'desk', people: [] } },
  'GET /api/sheets/[id]/grid': { ...onSheet, who: 'desk', query: 'q=x&from=100&asOf=1.1' },
  'GET /api/sheets/[id]/file': { ...onSheet, who: 'desk', query: 'as=json' },
  'POST /api/sheets/[id]/edit': { ...onSheet, body: { add: [{ c1: 'x' }] } },
  'GET /api/sheets/[id]/views': { ...onSheet, who: 'desk' },
  'POST /api/sheets/[id]/views': { ...onSheet, who: 'desk', body: keptView },
  'PUT /api/sheets/[id]/views/[view]': { who: 'desk', ids: { id: 'sheet', view: 'view' }, body: keptView },
  'DELETE /api/sheets/[id]/views/[view]': { who: 'desk', ids: { id: 'sheet', view: 'view' } },
  'PUT /api/sheets/[id]/source': { ...onSheet, body: { source: followedSource, secret: '', revision: null } },
  'DELETE /api/sheets/[id]/source': onSheet,
  'POST /api/sheets/[id]/source/trial': {
    ...onSheet,
    body: { url: 'http://127.0.0.1:9/', header: '', secret: '' },
  },
  'POST /api/sheets/[id]/source/read': { ...onSheet, body: { force: false } },
  'POST /api/sheets/[id]/records': { ...onSheet, body: { cells: { c1: 'x' } } },
  'POST /api/sheets/[id]/records/many': onSheet,
  'GET /api/sheets/[id]/records/[record]': {
    who: 'desk',
    ids: { id: 'sheet', record: 'record' },
  },
  'PUT /api/sheets/[id]/records/[record]': {
    who: 'coordinators',
    ids: { id: 'sheet', record: 'record' },
    body: { cells: { c1: 'x' } },
  },
  'DELETE /api/sheets/[id]/records/[record]': {
    who: 'coordinators',
    ids: { id: 'sheet', record: 'record' },
  },
  'POST /api/sources': { who: 'coordinators', body: { source, secret: '' } },
  'PUT /api/sources/[id]': { who: 'coordinators', ids: { id: 'source' }, body: { source, secret: '' } },
  'POST /api/sources/try': {
    who: 'coordinators',
    body: { source, secret: '', id: null, inputs: { place: 'x' } },
  },
  'GET /api/people/[id]/addresses': { who: 'coordinators', ids: { id: 'person' } },
  'POST /api/people/[id]/addresses': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: { mail: 'further@visitors.example' },
  },
  'PUT /api/people/[id]/addresses/[address]': {
    who: 'coordinators',
    ids: { id: 'person', address: 'address' },
  },
  'DELETE /api/people/[id]/addresses/[address]': {
    who: 'coordinators',
    ids: { id: 'person', address: 'address' },
  },
  'GET /api/people/[id]/merge': { who: 'coordinators', ids: { id: 'person' } },
  'POST /api/people/[id]/merge': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: { otherId: 1, name: 'Nobody' },
  },
  'GET /api/people/[id]/identities': { who: 'desk', ids: { id: 'person' } },
  'POST /api/people/[id]/identities': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: { system: 'loans', value: 'x.y' },
  },
  'DELETE /api/people/[id]/identities/[identity]': {
    who: 'coordinators',
    ids: { id: 'person', identity: 'identity' },
  },
  'POST /api/forms/[key]': {
    who: 'anybody',
    body: { cells: { c1: 'x' }, website: '', intent: 'a'.repeat(20) },
  },
  'GET /api/groups/[id]': { who: 'desk', ids: { id: 'group' } },
  'PUT /api/groups/[id]': { who: 'coordinators', ids: { id: 'group' }, body: { name: 'Another name' } },
  'DELETE /api/groups/[id]': { who: 'coordinators', ids: { id: 'group' } },
  'GET /api/groups/[id]/members': { who: 'desk', ids: { id: 'group' }, query: 'afterName=B&afterId=3' },
  'POST /api/groups/[id]/members': {
    who: 'coordinators',
    ids: { id: 'group' },
    body: { ids: [2], lines: ['Somebody', 'a@x.example'] },
  },
  'DELETE /api/groups/[id]/members/[person]': {
    who: 'coordinators',
    ids: { id: 'group', person: 'person' },
  },
  'POST /api/groups/[id]/rule': {
    who: 'coordinators',
    ids: { id: 'group' },
    body: { rule: { kind: 'everyone' } },
  },
  'GET /api/audit': { who: 'coordinators', query: 'search=a&subject=person&from=2026-01-01&before=9' },
  'GET /api/audit.csv': { who: 'coordinators', query: 'search=a&to=2026-01-01' },
  'GET /api/first-steps': { who: 'coordinators' },
  'PUT /api/first-steps': { who: 'coordinators', body: { step: 'people', later: true } },
  'PUT /api/organisation-settings': {
    who: 'coordinators',
    body: { name: 'Thistledown Seed Network', zone: 'Europe/London' },
  },
  'GET /api/imports': { who: 'coordinators' },
  'POST /api/imports': {
    who: 'coordinators',
    body: { fileName: 'list.csv', columns: { Name: 'name' }, dateOrder: 'day first' },
  },
  'GET /api/imports/[id]': { who: 'coordinators', ids: { id: 'import' } },
  'PUT /api/imports/[id]': { who: 'coordinators', ids: { id: 'import' }, body: { marksLeft: false } },
  'GET /api/imports/[id]/rows': { who: 'coordinators', ids: { id: 'import' }, query: 'kind=same&after=3' },
  'POST /api/imports/[id]/rows': {
    who: 'coordinators',
    ids: { id: 'import' },
    body: {
      rows: [
        {
          line: 1,
          name: 'A name',
          mail: 'row@x.example',
          station: 'A station',
          occupation: 'driver',
          zone: 'Europe/Oslo',
          joinedOn: '2026-01-02',
          attributes: { Licence: 'B' },
        },
      ],
    },
  },
  'PUT /api/imports/[id]/rows/[line]': {
    who: 'coordinators',
    ids: { id: 'import' },
    body: { decision: 'leave out', all: false },
  },
  'GET /api/imports/[id]/missing': {
    who: 'coordinators',
    ids: { id: 'import' },
    query: 'afterName=B&afterId=3',
  },
  'POST /api/imports/[id]/compare': { who: 'coordinators', ids: { id: 'import' } },
  'POST /api/imports/[id]/apply': { who: 'coordinators', ids: { id: 'import' }, body: { digest: 'x' } },
  'POST /api/imports/[id]/undo': { who: 'coordinators', ids: { id: 'import' } },
  'DELETE /api/imports/[id]': { who: 'coordinators', ids: { id: 'import' } },
  'GET /api/rights': { who: 'coordinators' },
  'GET /api/people.csv': { who: 'coordinators' },
  'GET /api/people.vcf': { who: 'coordinators' },
  'POST /api/invitations': {
    who: 'coordinators',
    body: { to: { kind: 'people', ids: [2] }, words: 'Come and see' },
  },
  'POST /api/invitations/withdrawn': { who: 'coordinators', body: { ids: [999_999] } },
  'POST /api/invitations/count': { who: 'coordinators', body: { to: { kind: 'everybody' } } },
  'PUT /api/groups/[id]/bundling': { who: 'coordinators', ids: { id: 'group' }, body: { bundling: 'twice' } },
  'PUT /api/groups/[id]/archived': { who: 'coordinators', ids: { id: 'group' }, body: { archived: false } },
  'PUT /api/groups/[id]/clearance': { who: 'coordinators', ids: { id: 'group' }, body: { needed: false } },
  'PUT /api/groups/[id]/kind': {
    who: 'coordinators',
    ids: { id: 'group' },
    body: { kind: 'live', rule: { kind: 'everyone' } },
  },
  'PUT /api/groups/[id]/owners': {
    who: 'coordinators',
    ids: { id: 'group' },
    body: { personId: 9, looksAfter: false },
  },
  'DELETE /api/organisation-settings/holidays/[id]': { who: 'coordinators', ids: { id: 'holiday' } },
  'POST /api/organisation-settings/holidays': {
    who: 'coordinators',
    body: { on: '2027-05-01', name: 'A day', stationId: null },
  },
  'PUT /api/organisation-settings/bundling': { who: 'coordinators', body: { bundling: 'as it comes' } },
  'PUT /api/organisation-settings/quiet': { who: 'coordinators', body: { quiet: null } },
  'GET /api/issues/[id]': { who: 'everybody', ids: { id: 'series' } },
  'GET /api/live': { who: 'everybody', query: 'topic=arrivals' },
  'DELETE /api/me/absences/[id]': { who: 'everybody', ids: { id: 'absence' } },
  'POST /api/me/absences': { who: 'everybody', body: { from: '2027-05-01', to: '2027-05-02' } },
  'POST /api/me/calendar': { who: 'desk' },
  'DELETE /api/me/devices/[id]': { who: 'everybody', ids: { id: 'device' } },
  'POST /api/me/devices': {
    who: 'everybody',
    body: {
      label: 'A phone',
      endpoint: 'https://10.0.0.1/x',
      keys: { p256dh: 'B'.repeat(87), auth: 'A'.repeat(22) },
    },
  },
  'POST /api/me/devices/practice': { who: 'everybody' },
  'GET /api/me/notices': { who: 'everybody' },
  'PUT /api/me/notices': {
    who: 'everybody',
    body: { digestAt: '17:00', choices: { mention: { inbox: true, mail: 'no', push: 'no' } } },
  },
  'PUT /api/me/password': {
    who: 'everybody',
    body: { old: 'the one before', password: 'four wet hats in a boat' },
  },
  'GET /api/me/bundling': { who: 'everybody' },
  'PUT /api/me/bundling': { who: 'everybody', body: { bundling: null } },
  'GET /api/kinds': { who: 'coordinators' },
  'PUT /api/kinds/occupations': { who: 'coordinators', body: { from: 'curator', to: 'curator' } },
  'PUT /api/kinds/attributes': {
    who: 'coordinators',
    body: { from: null, name: 'Shoe size', kind: 'number', choices: [] },
  },
  'DELETE /api/kinds/attributes': { who: 'coordinators', body: { name: 'Shoe size' } },
  'GET /api/me/details': { who: 'everybody' },
  'PUT /api/me/details': { who: 'everybody', body: { greeting: '', zone: 'UTC' } },
  'GET /api/me/quiet': { who: 'everybody' },
  'PUT /api/me/quiet': { who: 'everybody', body: { quiet: { from: '21:00', to: '07:00' } } },
  'GET /api/me/second-factor': { who: 'everybody' },
  'POST /api/me/second-factor/codes': { who: 'everybody' },
  'PUT /api/me/second-factor/codes': { who: 'everybody', body: { code: '000000' } },
  'DELETE /api/me/second-factor/codes': { who: 'everybody' },
  'POST /api/me/second-factor/passkeys': { who: 'everybody' },
  'PUT /api/me/second-factor/passkeys': {
    who: 'everybody',
    body: { name: 'Phone', response: { id: 'none' } },
  },
  'DELETE /api/me/second-factor/passkeys/[id]': { who: 'everybody', ids: { id: 'passkey' } },
  'POST /api/me/second-factor/recovery': { who: 'everybody' },
  'DELETE /api/people/[id]/sign-on/[provider]': {
    who: 'coordinators',
    ids: { id: 'person', provider: 'provider' },
  },
  'GET /api/systems': { who: 'coordinators' },
  'POST /api/systems': { who: 'coordinators', body: { name: 'The personnel office' } },
  'DELETE /api/systems/[id]': { who: 'coordinators', ids: { id: 'system' } },
  'POST /api/systems/[id]/token': { who: 'coordinators', ids: { id: 'system' } },
  'GET /api/v1/[...path]': { who: 'anybody' },
  'POST /api/v1/[...path]': { who: 'anybody' },
  'PUT /api/v1/[...path]': { who: 'anybody' },
  'DELETE /api/v1/[...path]': { who: 'anybody' },
  'GET /scim/v2/[...path]': { who: 'anybody' },
  'POST /scim/v2/[...path]': { who: 'anybody', body: {} },
  'PUT /scim/v2/[...path]': { who: 'anybody', body: {} },
  'DELETE /scim/v2/[...path]': { who: 'anybody' },
  'GET /api/providers': { who: 'coordinators' },
  'POST /api/providers': {
    who: 'coordinators',
    body: {
      provider: {
        name: 'Elsewhere',
        issuer: 'https://login.test.example',
        clientId: 'x',
        byMail: true,
        byIdentity: null,
      },
      secret: '',
    },
  },
  'PUT /api/providers/[id]': {
    who: 'coordinators',
    ids: { id: 'provider' },
    body: {
      provider: {
        name: 'Elsewhere',
        issuer: 'https://login.test.example',
        clientId: 'x',
        byMail: true,
        byIdentity: null,
      },
      secret: null,
      on: true,
    },
  },
  'DELETE /api/providers/[id]': { who: 'coordinators', ids: { id: 'provider' } },
  'POST /api/providers/[id]/try': { who: 'coordinators', ids: { id: 'provider' } },
  'GET /api/people/[id]/data.zip': { who: 'coordinators', ids: { id: 'person' } },
  'DELETE /api/people/[id]/mail-trouble': { who: 'coordinators', ids: { id: 'person' } },
  'PUT /api/people/[id]/leave': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: { from: '2030-01-01', until: null },
  },
  'DELETE /api/people/[id]/leave': { who: 'coordinators', ids: { id: 'person' } },
  'POST /api/people/[id]/erase': { who: 'coordinators', ids: { id: 'person' }, body: { name: 'Nobody' } },
  'DELETE /api/people/[id]/second-factor': { who: 'coordinators', ids: { id: 'person' } },
  'POST /api/sign-in/passkey': { who: 'anybody', body: {} },
  'PUT /api/sign-in/passkey': { who: 'anybody', body: { response: { id: 'none' } } },
  'POST /api/sign-in/second': { who: 'anybody', body: {} },
  'PUT /api/sign-in/second': { who: 'anybody', body: { response: { id: 'none' } } },
  'GET /api/me/groups': { who: 'everybody' },
  'GET /api/groups/[id]/door': { who: 'coordinators', ids: { id: 'group' } },
  'PUT /api/groups/[id]/door': {
    who: 'coordinators',
    ids: { id: 'group' },
    body: { joining: 'open', ownerBrings: false, about: '' },
  },
  'POST /api/groups/[id]/joining': { who: 'everybody', ids: { id: 'group' }, body: {} },
  'DELETE /api/groups/[id]/joining': { who: 'everybody', ids: { id: 'group' } },
  'PUT /api/groups/[id]/requests/[person]': {
    who: 'everybody',
    ids: { id: 'group', person: 'person' },
    body: { letIn: true },
  },
  'POST /api/groups/[id]/brought': {
    who: 'everybody',
    ids: { id: 'group' },
    body: { name: 'New Person', mail: 'new.person@test.example' },
  },
  'GET /api/me/sessions': { who: 'everybody' },
  'DELETE /api/me/sessions': { who: 'everybody' },
  'DELETE /api/me/sessions/[id]': { who: 'everybody', ids: { id: 'session' } },
  'GET /api/me/working': { who: 'everybody' },
  'PUT /api/me/working': { who: 'everybody', body: { workDays: [1, 2, 3] } },
  'GET /api/identities': { who: 'desk' },
  'POST /api/identities': {
    who: 'coordinators',
    body: { system: 'loans', rows: [{ line: 2, who: 'x', value: 'y' }], keep: false },
  },
  'GET /api/identities/lacking': { who: 'coordinators', query: 'system=loans' },
  'GET /api/names': { who: 'desk', query: 'q=a' },
  'GET /api/notices': { who: 'everybody', query: 'before=7' },
  'PUT /api/notices/read': { who: 'everybody', body: { path: null } },
  'GET /api/contacts/[id]/boards': { who: 'coordinators', ids: { id: 'contact' } },
  'GET /api/people/[id]/contacts': { who: 'coordinators', ids: { id: 'person' } },
  'POST /api/people/[id]/contacts': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: { name: 'A name', mail: 'contact@x.example', relation: 'mother' },
  },
  'PUT /api/people/[id]/standing': { who: 'coordinators', ids: { id: 'person' }, body: { left: false } },
  'GET /api/people/[id]': { who: 'coordinators', ids: { id: 'person' } },
  'PUT /api/people/[id]/reach': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: { groupIds: [1] },
  },
  'PUT /api/people/[id]': {
    who: 'coordinators',
    ids: { id: 'person' },
    body: {
      name: 'A name',
      occupation: 'driver',
      joinedOn: '2026-01-02',
      attributes: [{ name: 'Licence', value: 'B' }],
    },
  },
  'DELETE /api/people/[id]/invitation': { who: 'coordinators', ids: { id: 'person' } },
  'GET /api/people': { who: 'desk', query: 'search=a&shown=here&order=joined&turned=yes&from=50' },
  'GET /api/people/count': { who: 'desk', query: 'search=a&shown=guests' },
  'GET /api/people/ids': { who: 'coordinators', query: 'shown=here' },
  'POST /api/people/together': {
    who: 'coordinators',
    body: { ids: [999_999], act: { kind: 'to station', stationId: 1 } },
  },
  'POST /api/people': {
    who: 'coordinators',
    body: { name: 'A name', mail: 'new@x.example', role: 'member', stationId: null },
  },
  'POST /api/posts/[id]/decide': { ...onPost, body: { decision: 'hide', note: 'A reason' } },
  'GET /api/posts/[id]/draft': onPost,
  'PUT /api/posts/[id]/follow': { ...onPost, body: { choice: 'mute' } },
  'GET /api/posts/[id]': onPost,
  'PUT /api/posts/[id]': { ...onPost, body: post },
  'DELETE /api/posts/[id]': onPost,
  'POST /api/posts/[id]/pass-on': { ...onPost, body: { boardId: 5, document } },
  'PUT /api/posts/[id]/pin': { ...onPost, body: { pinned: true, until: '2030-01-01', replaces: null } },
  'GET /api/posts/[id]/replies': { ...onPost, query: 'before=9' },
  'POST /api/posts/[id]/replies': { ...onPost, body: { document, files: [] } },
  'POST /api/posts/[id]/report': { ...onPost, body: { reason: 'A reason' } },
  'GET /api/posts/[id]/texts': onPost,
  'PUT /api/reactions': {
    who: 'everybody',
    body: { subject: 'post', id: 9_999_999, kind: 'glad', given: true },
  },
  'POST /api/replies/[id]/decide': { ...reply, body: { to: 'hidden', note: 'A reason' } },
  'GET /api/replies/[id]': reply,
  'PUT /api/replies/[id]': { ...reply, body: { document, files: [] } },
  'DELETE /api/replies/[id]': reply,
  'POST /api/replies/[id]/report': { ...reply, body: { reason: 'A reason' } },
  'GET /api/replies/[id]/texts': reply,
  'POST /api/reports/[id]/settle': { who: 'everybody', ids: { id: 'report' } },
  'GET /api/ribbon': { who: 'desk' },
  'PUT /api/ribbons/[id]/retired': { who: 'coordinators', ids: { id: 'ribbon' }, body: { retired: true } },
  'POST /api/ribbons': { who: 'coordinators', body: { name: 'A ribbon', emblem: 'hands', colour: 'slate' } },
  'GET /api/run-sheet': { who: 'desk' },
  'GET /api/run-sheet/rows': { who: 'desk', query: 'from=1700000000000&to=1700500000000' },
  'GET /api/run-sheet/strain': { who: 'desk', query: 'from=1700000000000&to=1700500000000' },
  'DELETE /api/saved-audiences/[id]': { who: 'desk', ids: { id: 'audience' } },
  'GET /api/saved-audiences': { who: 'desk' },
  'POST /api/saved-audiences': {
    who: 'desk',
    body: { name: 'An audience', audience: { kind: 'group', id: 1 } },
  },
  'GET /api/search': { who: 'everybody', query: 'q=vault&from=2026-01-01&to=2026-12-31' },
  'GET /api/sends/[id]/after': send,
  'POST /api/sends/[id]/board': send,
  'GET /api/sends/[id]/coming': send,
  'POST /api/sends/[id]/coming': { ...send, body: { recursAt: wall } },
  'GET /api/sends/[id]/deliveries.csv': send,
  'GET /api/sends/[id]': send,
  'POST /api/sends/[id]/move': { ...send, body: { wall, zone: 'Europe/London' } },
  'POST /api/sends/[id]/open': { ...send, body: { to: 'correct' } },
  'POST /api/sends/[id]/put-back': send,
  'POST /api/sends/[id]/reinstate': send,
  'POST /api/sends/[id]/retry': send,
  'GET /api/sends/[id]/sign-ups.csv': send,
  'POST /api/sends/[id]/state': { ...send, body: { step: 'pause' } },
  'POST /api/sends/[id]/take-back': send,
  'POST /api/sends/[id]/withdraw': { ...send, body: { note: 'It was the wrong day' } },
  'PUT /api/series/[id]': { who: 'desk', ids: { id: 'series' }, body: series },
  'POST /api/series/[id]/next': { who: 'desk', ids: { id: 'series' } },
  'POST /api/series': { who: 'desk', body: series },
  'POST /api/set-aside/[kind]/[id]/again': { who: 'desk', ids: { id: 'aside' } },
  'GET /api/running': { who: 'coordinators' },
  'GET /api/retention': { who: 'coordinators' },
  'GET /api/retention/foreseen': { who: 'coordinators', query: 'kind=calls&days=30' },
  'PUT /api/retention': { who: 'coordinators', body: { kind: 'calls', days: 60 } },
  'GET /api/organisation.zip': { who: 'coordinators' },
  'POST /api/organisation/parts': { who: 'coordinators' },
  'GET /api/organisation/parts/[key]': { who: 'coordinators' },
  'POST /api/organisation/parts/[key]': {
    who: 'coordinators',
    body: { parts: [{ key: 'group:1', state: 'new', beside: false }] },
  },
  'POST /api/organisation/parts/[key]/people': { who: 'coordinators' },
  'GET /api/organisation/takeouts': { who: 'coordinators' },
  'POST /api/organisation/takeouts': { who: 'coordinators' },
  'DELETE /api/organisation/takeouts/[id]': { who: 'coordinators' },
  'GET /api/organisation/takeouts/[id]/file': { who: 'coordinators' },
  'POST /api/setup/archive': { who: 'anybody' },
  'POST /api/setup/archive/bring-in': {
    who: 'anybody',
    body: { key: 'k'.repeat(22), mail: 'first@x.example', password: 'a row of words', atRest: true },
  },
  'POST /api/setup': {
    who: 'anybody',
    body: {
      organisation: 'A house',
      zone: 'UTC',
      name: 'A name',
      mail: 'first@x.example',
      password: 'a row of words',
    },
  },
  'GET /api/shelf/answers/[id]': { who: 'coordinators', ids: { id: 'answer' } },
  'PUT /api/shelf/answers/[id]': {
    who: 'coordinators',
    ids: { id: 'answer' },
    body: { question: 'What?', document, subjectId: 1, occurrenceId: null, published: true, settles: null },
  },
  'DELETE /api/shelf/answers/[id]': { who: 'coordinators', ids: { id: 'answer' } },
  'POST /api/shelf/answers/[id]/publish': { who: 'coordinators', ids: { id: 'answer' } },
  'POST /api/shelf/answers': {
    who: 'coordinators',
    body: { question: 'What?', document, subjectId: 1, occurrenceId: null, published: true, settles: null },
  },
  'GET /api/shelf/announcements': { who: 'coordinators', query: 'q=a' },
  'GET /api/shelf/best': { who: 'everybody', query: 'q=vault' },
  'GET /api/shelf/desk': { who: 'coordinators' },
  'POST /api/shelf/questions/[id]/answer': {
    who: 'coordinators',
    ids: { id: 'question' },
    body: { answerId: 1 },
  },
  'POST /api/shelf/questions/[id]/close': {
    who: 'coordinators',
    ids: { id: 'question' },
    body: { reason: 'A word' },
  },
  'POST /api/shelf/questions': { who: 'everybody', body: { text: 'Where is it?', found: 0, helpedBy: null } },
  'POST /api/shelf/subjects': { who: 'coordinators', body: { name: 'A subject', parentId: null } },
  'GET /api/shelf/subjects': { who: 'everybody' },
  'GET /api/shelf/under': { who: 'everybody', query: 'subject=1' },
  'POST /api/sign-out': { who: 'everybody', body: { everywhere: false } },
  'POST /api/thanks/digest': { who: 'desk', body: { month: '2026-10' } },
  'POST /api/thanks': {
    who: 'everybody',
    body: { boardId: 5, ribbonId: 1, to: [2], sentence: 'For the help' },
  },
  'GET /api/stations': { who: 'desk' },
  'POST /api/stations': { who: 'coordinators', body: { name: 'A station', zone: 'Europe/London' } },
  'POST /api/stations/[id]/merge': { who: 'coordinators', ids: { id: 'station' }, body: { into: 999_999 } },
  'PUT /api/stations/[id]/retired': {
    who: 'coordinators',
    ids: { id: 'station' },
    body: { retired: false },
  },
  'PUT /api/stations/[id]': {
    who: 'coordinators',
    ids: { id: 'station' },
    body: { name: 'A station', zone: 'Europe/Lisbon', takesPeople: true },
  },
  'DELETE /api/stations/[id]': { who: 'coordinators', ids: { id: 'station' } },
  'POST /api/theme': { who: 'anybody', body: { theme: 'day' } },
  'POST /api/uploads': { who: 'everybody', query: 'as=file&name=a.txt' },
  'POST /api/uploads/address': { who: 'desk', body: { address: 'http://127.0.0.1:1/none.png' } },
  'GET /feeds/[key]': { who: 'anybody' },
  'GET /feeds/sessions/[key]': { who: 'anybody' },
  'GET /feeds/news/[key]/[...what]': { who: 'anybody' },
  'GET /files/[key]/[name]': { who: 'anybody' },
  'GET /for-me/[id]/event.ics': { who: 'everybody', ids: { id: 'inbox' } },
  'GET /m/answer/[token]/box': { who: 'anybody' },
  'POST /m/answer/[token]/box': { who: 'anybody', body: {} },
};
