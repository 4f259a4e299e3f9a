import { execFile } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { ensureCommands } from '../../scripts/house/debian.ts';
import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import openapiTS, { astToString } from 'openapi-typescript';
import ts from 'typescript';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SCOPE_NAMES, type Scope } from '../../src/core/api/token.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { answerApi } from '../../src/server/api/answer.ts';
import { openApi } from '../../src/server/api/openapi.ts';
import { listTokens, makeToken, revokeToken } from '../../src/server/api/tokens.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { sayOfDate } from '../../src/server/calendar/answering.ts';
import { archiveGroup } from '../../src/server/groups/archiving.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { newAutomation, type When } from '../../src/core/automation/automation.ts';
import { newPostSchema } from '../../src/core/boards/board.ts';
import { documentOfMarkdown } from '../../src/core/content/markdown.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { makeSheet } from '../../src/server/sheets/service.ts';
import { putToWork, says } from './automating.ts';
import {
  checkIns,
  conversation,
  dates,
  drafts,
  lists,
  outcomes,
  patterns,
  settings as settingsByApi,
  shelf,
  tokens,
} from './apiDesk.ts';
import * as closer from './apiCloser.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase, SECRET, sendNow } from './world.ts';

const BASE = 'https://bell.example/api/v1';
const settings = {
  CLEAR_BELL_SECRET: SECRET,
  CLEAR_BELL_URL: 'https://bell.example',
  MAIL_FROM: 'bell@bell.example',
  MAIL_IN_DOMAIN: undefined,
  LOOKUP_ORIGINS: [] as string[],
};
const NO_LIMIT = { call: () => Promise.resolve({ left: 599, seconds: 60 }) } as unknown as AttemptLimit;

interface Operation {
  operationId: string;
  responses: Record<string, { content?: Record<string, { schema: { $ref: string } }> }>;
}
const description = openApi(BASE) as {
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, object> };
};

let db: Database;
let url: string;
let people: number[];
let ajv: Ajv2020;
let all: string;
const called = new Set<string>();

/** The documented operation at a path that was called. */
function operationAt(method: string, path: string): Operation {
  const parts = path.replace(/\?.*/, '').split('/');
  for (const [pattern, methods] of Object.entries(description.paths)) {
    const wanted = pattern.split('/');
    const fits =
      wanted.length === parts.length &&
      wanted.every((part, at) => part.startsWith('{') || part === parts[at]);
    const operation = methods[method.toLowerCase()];
    if (fits && operation) return operation;
  }
  throw new Error(`${method} ${path} is not documented`);
}

const validators = new Map<string, ValidateFunction>();
function validate(ref: string, value: unknown): void {
  let known = validators.get(ref);
  if (!known) {
    known = ajv.compile({ $ref: ref.replace('#/', 'https://api.example/all#/') });
    validators.set(ref, known);
  }
  if (!known(value)) throw new Error(`${ref}: ${ajv.errorsText(known.errors)} in ${JSON.stringify(value)}`);
}

/** What the tests read of what comes back, whose shape is held against its schema. */
interface Body {
  id: number;
  added: number[];
  sendId: number;
  detail: string;
  dueAt: string;
  name: string;
  occupation: string;
  standing: string;
  people: number;
  asked: number;
  calledOff: boolean;
  closedAt: string | null;
  review: string;
  announcementId: number;
  content: { title: string; sections: { id: string; text: string }[] };
  dates: { id: number }[];
  items: { id: number; cause?: string; words?: string }[];
  secret: string;
  events: number;
  hook: Record<string, unknown>;
}
interface Called {
  status: number;
  headers: Headers;
  body: Body;
}

/** Calls the API as a program does, and holds every answer against the description. */
async function call(
  request: string,
  body?: unknown,
  {
    token = all,
    headers = {},
    attempts = NO_LIMIT,
  }: { token?: string; headers?: Record<string, string>; attempts?: AttemptLimit } = {},
): Promise<Called> {
  const [method, path] = request.split(' ') as [string, string];
  const response = await answerApi(
    { db, attempts, base: BASE, settings },
    new Request(`${BASE}${path}`, {
      method,
      headers: {
        authorization: `Bearer ${token}`,
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...headers,
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    }),
    path.replace(/\?.*/, ''),
  );
  const text = await response.text();
  const read: unknown = text === '' ? undefined : JSON.parse(text);
  const operation = operationAt(method, path);
  const described = operation.responses[String(response.status)];
  if (!described) throw new Error(`${request}: ${response.status} is not documented: ${text}`);
  const [content] = Object.entries(described.content ?? {});
  if (content) {
    expect(response.headers.get('content-type')).toBe(content[0]);
    validate(content[1].schema.$ref, read);
  } else expect(text).toBe('');
  if (response.ok) called.add(operation.operationId);
  return { status: response.status, headers: response.headers, body: read as Body };
}

const tokenFor = async (actor: Actor, scopes: readonly Scope[] = SCOPE_NAMES): Promise<string> =>
  (await makeToken(db, actor, { name: 'A program', scopes: [...scopes], days: 30 })).token;

let keys = 0;
const keyed = (): Record<string, string> => ({ 'idempotency-key': `key-of-a-test-${++keys}` });
const over = (made: Called): Record<string, string> => ({ 'if-match': made.headers.get('etag')! });

beforeAll(async () => {
  ({ db, url } = await freshDatabase('api'));
  people = await addPeople(db, 120);
  all = await tokenFor(coordinator);
  ajv = new Ajv2020({ strict: false, allErrors: true });
  (addFormats as unknown as (to: Ajv2020) => void)(ajv);
  ajv.addSchema({ ...description, $id: 'https://api.example/all' });
});
afterAll(() => db.destroy());

const draft = { content: { title: 'Lift', sections: [{ text: 'Take the **stairs**.' }] } };

describe('the API', () => {
  it('drafts, changes over a revision, rehearses, sends once and tells how far it is', async () => {
    const made = await call('POST /announcements', {
      ...draft,
      plan: { audience: { kind: 'everyone' }, timing: { kind: 'at', wall: '2035-01-01T09:00', zone: 'UTC' } },
    });
    expect(made.status).toBe(201);
    const path = `/announcements/${made.body.id}`;
    expect(made.headers.get('location')).toBe(`${BASE}${path}`);
    const read = await call(`GET ${path}`);
    expect(read.body).toEqual(made.body);
    expect(
      (await call(`GET ${path}`, undefined, { headers: { 'if-none-match': read.headers.get('etag')! } }))
        .status,
    ).toBe(304);
    const sections = [{ ...read.body.content.sections[0], text: 'Take the *ramp*.' }];
    const change = { content: { title: 'Lift', sections }, plan: { mail: false } };
    expect((await call(`PUT ${path}`, change)).status).toBe(428);
    const changed = await call(`PUT ${path}`, change, { headers: over(read) });
    // What was left out of the plan stayed.
    expect(changed.body).toMatchObject({ plan: { mail: false, audience: { kind: 'everyone' } } });
    expect(changed.body.content.sections[0]!.text).toBe('Take the *ramp*.');
    expect((await call(`PUT ${path}`, change, { headers: over(read) })).status).toBe(412);
    expect((await call(`POST ${path}/rehearsal`)).body).toMatchObject({
      people: 121,
      byMail: 0,
      problems: [],
    });
    const key = keyed();
    const sent = await call(`POST ${path}/send`, undefined, { headers: { ...key, ...over(changed) } });
    const again = await call(`POST ${path}/send`, undefined, { headers: { ...key, ...over(changed) } });
    expect(again.body).toEqual(sent.body);
    expect(await countOf(db, 'FROM sends')).toBe(1);
    const send = `/sends/${sent.body.sendId}`;
    const moved = await call(`POST ${send}/move`, { wall: '2035-01-02T09:00', zone: 'UTC' });
    expect(moved.body.dueAt).toBe('2035-01-02T09:00:00.000Z');
    expect((await call(`GET ${send}`)).body).toMatchObject({ state: 'scheduled', dueAt: moved.body.dueAt });
    const sheet = await call('GET /sends?from=2035-01-01T00:00:00Z&to=2035-01-03T00:00:00Z');
    expect(sheet.body.items.map((each) => each.id)).toEqual([sent.body.sendId]);
    expect((await call(`POST ${send}/take-back`)).body).toEqual({ announcementId: made.body.id });
    expect((await call('GET /sends?from=2035-01-01T00:00:00Z&to=2036-01-03T00:00:00Z')).status).toBe(422);
    const spare = await call('POST /announcements', draft);
    await call(`DELETE /announcements/${spare.body.id}`);
    expect((await call(`GET /announcements/${spare.body.id}`)).status).toBe(404);
    expect((await call('POST /audiences/count', { audience: { kind: 'station', id: 1 } })).body.people).toBe(
      120,
    );
  });

  it('keeps what the CommonMark of a section cannot say', async () => {
    const id = (await call('POST /announcements', draft)).body.id;
    const [row] = await rows<{ content: string }>(db, 'SELECT content FROM announcements WHERE id = ?', [id]);
    const stored = JSON.parse(row!.content) as { sections: { document: object; files: object[] }[] };
    stored.sections[0]!.document = {
      type: 'doc',
      content: [
        {
          type: 'paragraph',
          content: [{ type: 'mention', attrs: { kind: 'person', id: people[0], label: 'Person 00002' } }],
        },
      ],
    };
    const file = { key: 'a'.repeat(22), name: 'plan.pdf', mime: 'application/pdf', bytes: 4 };
    stored.sections[0]!.files = [file];
    await db('announcements')
      .where({ id })
      .update({ content: JSON.stringify(stored) });
    const read = await call(`GET /announcements/${id}`);
    const content = { ...read.body.content, title: 'Another title' };
    await call(`PUT /announcements/${id}`, { content }, { headers: over(read) });
    const [after] = await rows<{ content: string }>(db, 'SELECT content FROM announcements WHERE id = ?', [
      id,
    ]);
    expect(JSON.parse(after!.content)).toMatchObject({ title: 'Another title', sections: stored.sections });
  });

  it('pages through people, members and announcements to the end, each once', async () => {
    for (let n = 0; n < 51; n++) await call('POST /announcements', draft);
    const group = await addGroup(db, 'All of them', people);
    for (const [path, n] of [
      ['/people', 121],
      [`/groups/${group}/members`, 120],
      ['/announcements?state=draft', await countOf(db, "FROM announcements WHERE state = 'draft'")],
    ] as const) {
      const found: number[] = [];
      for (let next: string | undefined = path; next !== undefined;) {
        const page: Called = await call(`GET ${next}`);
        found.push(...page.body.items.map((each) => each.id));
        next = /^<(.*)>; rel="next"$/.exec(page.headers.get('link') ?? '')?.[1]?.slice(BASE.length);
      }
      expect(new Set(found).size).toBe(n);
      expect(found).toHaveLength(n);
    }
    expect((await call('GET /people?after=nonsense')).body).toMatchObject({ errors: [{ field: 'after' }] });
    expect((await call('GET /people?search=person00007')).body.items).toHaveLength(0);
    expect((await call('GET /people?search=Person%2000007')).body.items).toHaveLength(1);
    expect((await call('GET /people?serach=x')).status).toBe(422);
  });

  it('posts and replies once under a key, and looks after groups, people, sessions and records', async () => {
    const board = await insertBoard(db, {
      name: 'Van',
      about: 'The van',
      groupId: null,
      ...PRESETS.talk.switches,
      ownerId: coordinator.id,
      takesThanks: false,
      position: 1,
    });
    expect((await call('GET /boards')).body.items).toContainEqual(
      expect.objectContaining({ id: board, mayPost: true }),
    );
    const key = keyed();
    const post = { title: 'It is back', text: 'With *new* tyres.' };
    const written = await call(`POST /boards/${board}/posts`, post, { headers: key });
    expect((await call(`POST /boards/${board}/posts`, post, { headers: key })).body).toEqual(written.body);
    expect(
      (await call(`POST /boards/${board}/posts`, { ...post, title: 'Other' }, { headers: key })).status,
    ).toBe(422);
    expect((await call(`GET /boards/${board}/posts`)).body.items).toEqual([
      (await call(`GET /posts/${written.body.id}`)).body,
    ]);
    await call(`POST /posts/${written.body.id}/replies`, { text: 'Thank you.' }, { headers: keyed() });
    expect((await call(`GET /posts/${written.body.id}/replies`)).body.items).toMatchObject([
      { text: 'Thank you.' },
    ]);

    const group = await call('POST /groups', { name: 'Runners', rule: null });
    const at = `/groups/${group.body.id}`;
    expect(
      (await call(`POST ${at}/members`, { ids: [people[0]], lines: ['nobody@nowhere.example'] })).body,
    ).toEqual({
      added: 1,
      already: 0,
      unknown: ['nobody@nowhere.example'],
    });
    await call(`DELETE ${at}/members/${people[0]}`);
    expect((await call(`PATCH ${at}`, { about: 'On Fridays' })).body).toMatchObject({
      about: 'On Fridays',
      people: 0,
    });
    expect((await call(`GET ${at}`)).body.name).toBe('Runners');
    expect((await call('GET /groups')).body.items).toContainEqual(
      expect.objectContaining({ name: 'Runners' }),
    );
    await call(`DELETE ${at}`);

    const oda = await call('POST /people', {
      name: 'Oda',
      mail: 'oda@test.example',
      role: 'member',
      stationId: 1,
    });
    expect(oda.body).toMatchObject({ zone: 'Europe/London', standing: 'active' });
    expect(
      (await call('POST /people', { name: 'Oda', mail: 'ODA@test.example', role: 'member', stationId: 1 }))
        .body,
    ).toMatchObject({
      errors: [{ field: 'mail' }],
    });
    const of = `/people/${oda.body.id}`;
    expect((await call(`PATCH ${of}`, { occupation: 'archivist' })).body.occupation).toBe('archivist');
    await call(`POST ${of}/leave`);
    expect((await call(`GET ${of}`)).body.standing).toBe('left');
    await call(`POST ${of}/return`);
    expect((await call('GET /stations')).body.items).toHaveLength(2);

    const session = {
      title: 'Drill',
      text: '',
      wall: '2035-03-05T10:00',
      zone: 'UTC',
      minutes: 60,
      place: 'Vault',
      link: '',
      rule: null,
      audience: { kind: 'everyone' },
      capacity: 20,
      remindMinutes: null,
    };
    const drill = await call('POST /sessions', session);
    const here = `/sessions/${drill.body.id}`;
    const attic = await call(`PUT ${here}`, { ...session, place: 'Attic' }, { headers: over(drill) });
    expect(attic.body.dates).toMatchObject([{ place: 'Attic', startsAt: '2035-03-05T10:00:00.000Z' }]);
    expect((await call(`PUT ${here}`, session, { headers: over(drill) })).status).toBe(412);
    expect((await call('GET /session-dates?all=true')).body.items).toHaveLength(1);
    // How many come is no revision, and yet another answer.
    const known = { headers: { 'if-none-match': (await call(`GET ${here}`)).headers.get('etag')! } };
    expect((await call(`GET ${here}`, undefined, known)).status).toBe(304);
    await sayOfDate(db, coordinator, attic.body.dates[0]!.id, 'yes', 'page');
    expect((await call(`GET ${here}`, undefined, known)).body.dates).toMatchObject([{ coming: 1 }]);
    expect((await call(`POST ${here}/call-off`, { note: 'In autumn' })).body.calledOff).toBe(true);
    expect((await call(`GET ${here}`)).body.calledOff).toBe(true);

    const sheet = await makeSheet(db, coordinator, {
      name: 'Kit',
      purpose: '',
      form: null,
      columns: [{ id: 'c1', name: 'What', kind: 'text', unit: '', choices: [] }],
    });
    const kit = `/record-sheets/${sheet}`;
    const rows = { rows: [{ c1: 'Rope' }, { c1: 'Lamp' }] };
    const once = { headers: keyed() };
    const pressed = await Promise.all([1, 2, 3].map(() => call(`POST ${kit}/records`, rows, once)));
    // The others are told that it is under way, or answered as the first was.
    expect(pressed.every(({ status }) => status === 201 || status === 409)).toBe(true);
    const again = await call(`POST ${kit}/records`, rows, once);
    expect([again.status, again.body]).toEqual([201, { added: 2 }]);
    expect((await call(`GET ${kit}`)).body).toMatchObject({ records: 2 });
    const [lamp] = (await call(`GET ${kit}/records`)).body.items;
    await call(`PATCH ${kit}/records/${lamp!.id}`, { cells: { c1: 'Torch' } });
    expect((await call(`GET ${kit}/records?search=torch`)).body.items).toMatchObject([
      { id: lamp!.id, cells: { c1: 'Torch' } },
    ]);
    await call(`DELETE ${kit}/records/${lamp!.id}`);
    expect((await call(`GET ${kit}`)).body).toMatchObject({ name: 'Kit', records: 1 });

    // Many at once, or nothing; and seen as a view shows them.
    const [rope] = (await call(`GET ${kit}/records`)).body.items as { id: number }[];
    const edit = {
      change: [{ record: rope!.id, cells: { c1: 'Line' }, was: { c1: 'Lamp' } }],
      add: [{ c1: 'Tent' }],
    };
    expect((await call(`POST ${kit}/edit`, edit, { headers: keyed() })).status).toBe(409);
    edit.change[0]!.was.c1 = 'Rope';
    expect((await call(`POST ${kit}/edit`, edit, { headers: keyed() })).body.added).toHaveLength(1);
    const kept = {
      name: 'By name',
      shared: true,
      view: { if: { kind: 'all', of: [] }, order: [], hidden: [] },
    };
    const view = `${kit}/views/${(await call(`POST ${kit}/views`, kept, { headers: keyed() })).body.id}`;
    await call(`PUT ${view}`, { ...kept, view: { ...kept.view, order: [{ column: 'c1', turned: false }] } });
    expect((await call(`GET ${view}/records`)).body.items).toMatchObject([
      { cells: { c1: 'Line' } },
      { cells: { c1: 'Tent' } },
    ]);
    expect((await call(`GET ${kit}/views`)).body.items).toMatchObject([{ name: 'By name', mine: true }]);
    await call(`DELETE ${view}`);
    await call(`DELETE ${kit}/records/${rope!.id}`);
    expect((await call('GET /record-sheets')).body.items).toHaveLength(1);
  });

  it('is reviewed, corrected, withdrawn and let hold again as at the desk', async () => {
    const [editorId = 0] = people;
    const editor: Actor = { id: editorId, role: 'editor', moderates: new Set(), mayReach: new Set() };
    await db('people').where({ id: editorId }).update({ role: 'editor' });
    const theirs = await tokenFor(editor);
    const made = await call('POST /announcements', draft, { token: theirs });
    const path = `/announcements/${made.body.id}`;
    const review = (step: string, token: string): Promise<Called> =>
      call(`POST ${path}/review`, { step }, { token, headers: over(made) });
    expect((await review('hand on', theirs)).body.review).toBe('for review');
    expect((await review('clear', theirs)).status).toBe(403);
    expect((await review('clear', all)).body.review).toBe('cleared');

    const sent = await sendNow(db, { mail: false }, { title: 'Wrong hour' });
    await expandNow(db, sent);
    await db('occurrences').where({ id: sent }).update({ state: 'sent' });
    const opened = (await call(`POST /sends/${sent}/correct`)).body.announcementId;
    const read = await call(`GET /announcements/${opened}`);
    const right = await call(
      `PUT /announcements/${opened}`,
      { content: { ...read.body.content, title: 'Right hour' } },
      { headers: over(read) },
    );
    const correction = { note: 'The hour', tell: 'everybody' };
    const published = await call(`POST /announcements/${opened}/correction`, correction, {
      headers: over(right),
    });
    expect(published.body).toEqual({ sendId: sent, toldBySendId: expect.any(Number) as number });
    expect((await call(`GET /sends/${sent}`)).body).toMatchObject({ title: 'Right hour' });
    const again = await call(`POST /announcements/${opened}/correction`, correction, {
      headers: over(right),
    });
    expect(again.status).toBe(409);
    await call(`POST /sends/${sent}/withdraw`, { note: 'It is off' });
    expect((await call(`POST /sends/${sent}/withdraw`, { note: 'It is off' })).status).toBe(409);
    await call(`POST /sends/${sent}/reinstate`);

    const weekly = await call('POST /announcements', {
      ...draft,
      plan: {
        audience: { kind: 'everyone' },
        timing: { kind: 'recurring', start: '2035-01-01T09:00', zone: 'UTC', rule: WEEKLY },
      },
    });
    const going = await call(`POST /announcements/${weekly.body.id}/send`, undefined, {
      headers: { ...keyed(), ...over(weekly) },
    });
    await call(`POST /sends/${going.body.sendId}/state`, { step: 'pause' });
    expect((await call(`POST /sends/${going.body.sendId}/state`, { step: 'pause' })).status).toBe(409);
  });

  it('makes ways in and out and outside places, over the revision it read, and chooses how long what is kept', async () => {
    const board = await insertBoard(db, {
      name: 'From outside',
      about: '',
      groupId: null,
      ...PRESETS.talk.switches,
      gateways: true,
      ownerId: coordinator.id,
      takesThanks: false,
      position: 3,
    });
    const way = { target: { kind: 'board', boardId: board }, senderId: null, held: false, perMinute: 30 };
    const wayIn = { name: 'A door', ...way, mapping: null, fields: [] };
    const made = await call('POST /ways-in', wayIn);
    expect(made.body.secret).toMatch(/^whsec_/);
    const at = `/ways-in/${made.body.id}`;
    const first = await call(`GET ${at}`);
    expect(first.body).toMatchObject({
      hook: { name: 'A door' },
      address: expect.stringContaining('/hooks/') as string,
    });
    expect(JSON.stringify(first.body)).not.toContain('whsec_');
    const changed = { ...wayIn, name: 'Another door' };
    const over = (read: Called): Record<string, string> => ({ 'if-match': read.headers.get('etag') ?? '' });
    expect((await call(`PUT ${at}`, changed, { headers: over(first) })).status).toBe(204);
    expect((await call(`PUT ${at}`, changed, { headers: over(first) })).status).toBe(412);
    await call(`POST ${at}/state`, { on: false });
    expect((await call(`POST ${at}/secret`)).body.secret).not.toBe(made.body.secret);
    expect((await call('GET /ways-in')).body.items).toMatchObject([{ name: 'Another door', on: false }]);
    expect((await call(`DELETE ${at}`)).status).toBe(204);

    const place = {
      name: 'A screen',
      url: 'https://screens.example/',
      kinds: [],
      boardId: null,
      place: { template: '{"t": "{{ title }}"}', changes: true, editors: true },
    };
    const broken = { ...place, place: { ...place.place, template: '{"t": "{{ nothing }}"}' } };
    expect((await call('POST /ways-out', broken)).body).toMatchObject({
      errors: [{ field: 'place.template' }],
    });
    const out = (await call('POST /ways-out', place)).body.id;
    expect((await call('GET /outside-places')).body.items).toEqual([
      { id: out, name: 'A screen', denied: null },
    ]);
    const draft = await call('POST /announcements', {
      content: { title: 'Seen from outside', sections: [{ text: 'Words' }] },
      plan: { audience: null, outside: [out] },
    });
    expect((await call(`POST /announcements/${draft.body.id}/rehearsal`)).body).toMatchObject({
      outside: [{ name: 'A screen' }],
      problems: [],
    });
    const going = await call(`POST /announcements/${draft.body.id}/send`, undefined, {
      headers: { 'idempotency-key': 'seen-from-outside', ...over(draft) },
    });
    await expandNow(db, going.body.sendId);
    await call(`POST /ways-out/${out}/trial`);
    const read = await call(`GET /ways-out/${out}`);
    expect(read.body).toMatchObject({ handovers: [{ kind: 'trial' }, { kind: 'announcement' }] });
    await call(`PUT /ways-out/${out}`, { ...place, name: 'The screen' }, { headers: over(read) });
    await db.raw("UPDATE hook_deliveries SET state = 'failed' WHERE hook_id = ?", [out]);
    expect((await call(`POST /ways-out/${out}/again`, { sinceMs: 0 })).body).toEqual({ events: 2 });
    await call(`POST /ways-out/${out}/state`, { on: false });
    await call(`POST /ways-out/${out}/secret`);
    expect((await call('GET /ways-out')).body.items).toMatchObject([{ name: 'The screen', state: 'off' }]);
    expect((await call(`DELETE /ways-out/${out}`)).status).toBe(204);

    const shape = {
      name: 'Parcels',
      purpose: '',
      columns: [{ id: 'c1', name: 'State', kind: 'text' }],
      form: null,
    };
    const sheet = `/record-sheets/${(await call('POST /record-sheets', shape)).body.id}`;
    await call(`PUT ${sheet}`, { ...shape, purpose: 'Where they are' }, { headers: { 'if-match': '"1"' } });
    expect((await call(`GET ${sheet}/source`)).status).toBe(404);
    const followed = {
      url: 'http://127.0.0.1:9/',
      header: '',
      everyMinutes: 5,
      rows: '/all',
      key: '/id',
      gone: '',
      after: '',
      columns: { c1: '/state' },
    };
    const inside = /on the internal network/;
    const begun = await call(`PUT ${sheet}/source`, { source: followed, revision: null });
    expect(begun.body).toMatchObject({ trouble: expect.stringMatching(inside) as string });
    expect((await call(`GET ${sheet}/source`)).body).toMatchObject({
      source: followed,
      hasSecret: false,
      records: 0,
    });
    const reread = await call(`POST ${sheet}/source/read`, { force: false });
    expect(reread.body).toMatchObject({ trouble: expect.stringMatching(inside) as string });
    expect((await call(`DELETE ${sheet}/source`)).status).toBe(204);
    await call(`PUT ${sheet}/rights`, { seenBy: 'named', people: [] });
    expect((await call(`GET ${sheet}`)).body).toMatchObject({ seenBy: 'named', people: [] });
    expect((await call(`DELETE ${sheet}`)).status).toBe(204);

    const sender = (await call('POST /senders', { name: 'The gate' })).body.id;
    await call(`PUT /senders/${sender}`, { name: 'The gates' });
    expect((await call('GET /senders')).body.items).toMatchObject([{ id: sender, name: 'The gates' }]);
    expect((await call(`DELETE /senders/${sender}`)).status).toBe(204);
    expect((await call('PUT /retention', { kind: 'calls', days: 3 })).status).toBe(422);
    await call('PUT /retention', { kind: 'calls', days: 365 });
    expect((await call('GET /retention')).body.items).toContainEqual({
      kind: 'calls',
      days: 365,
      daysNow: 365,
      holdsAt: null,
    });
  });

  it('moderates boards, keeps groups, invites, switches automations, and tells who did what', async () => {
    const board = await insertBoard(db, {
      name: 'Watched',
      about: '',
      groupId: null,
      ...PRESETS.held.switches,
      ownerId: coordinator.id,
      takesThanks: false,
      position: 2,
    });
    const member: Actor = { id: people[1]!, role: 'member', moderates: new Set(), mayReach: new Set() };
    const post = await writePost(
      db,
      member,
      board,
      newPostSchema.parse({ title: 'May I?', document: documentOfMarkdown('Please.') }),
      'held-post',
    );
    expect((await call(`GET /boards/${board}/held`)).body.items).toMatchObject([
      { id: post.id, state: 'held' },
    ]);
    await call(`POST /posts/${post.id}/decision`, { decision: 'approve', note: '' });
    await call(`POST /posts/${post.id}/pin`, { pinned: true });
    expect((await call(`GET /posts/${post.id}`)).body).toMatchObject({ state: 'up' });

    const group = await call('POST /groups', {
      name: 'Archivists',
      rule: { kind: 'occupation', occupation: 'curator' },
    });
    const at = `/groups/${group.body.id}`;
    for (const owner of [people[2], people[3]]) await call(`PUT ${at}/owners/${owner}`);
    await call(`DELETE ${at}/owners/${people[2]}`);
    expect((await call(`POST ${at}/archive`, { archived: true })).body).toMatchObject({
      archived: true,
      kind: 'live',
      owners: [{ id: people[3] }],
    });
    expect(
      (await call('POST /invitations', { to: { kind: 'people', ids: [people[4], people[9]] } })).body,
    ).toEqual({
      invited: 1,
      withoutAddress: 1,
      inAlready: 0,
    });
    expect((await call('POST /stations', { name: 'Barrow', zone: 'Europe/London' })).body.items).toHaveLength(
      3,
    );
    expect((await call('POST /stations', { name: 'Barrow', zone: 'Nowhere/At all' })).body).toMatchObject({
      errors: [{ field: 'zone' }],
    });

    const when: When = {
      kind: 'schedule',
      start: '2035-01-01T09:00',
      zone: 'UTC',
      rule: { ...WEEKLY, freq: 'daily' },
      sheetId: null,
    };
    const id = await putToWork(db, when, {
      tell: {
        to: { kind: 'audience', audience: { kind: 'everyone' } },
        boards: [],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
      content: says('Good day', 'Here.'),
    });
    expect((await call('GET /automations')).body.items).toMatchObject([{ id, state: 'on' }]);
    const key = keyed();
    for (let n = 0; n < 2; n++) await call(`POST /automations/${id}/runs`, undefined, { headers: key });
    const listed = (await call(`GET /runs?automation=${id}`)).body.items;
    const runs = listed.filter((run) => run.cause === 'run by hand');
    expect(runs).toMatchObject([{ automationId: id, state: 'waiting' }]);
    await db('automation_runs').where({ id: runs[0]!.id }).update({ state: 'failed' });
    await call(`POST /runs/${runs[0]!.id}/again`);
    await call(`POST /automations/${id}/state`, { on: false });
    const trail = (await call('GET /audit?search=Maud')).body.items;
    expect(trail[0]?.words).toBe('switched off Of a test, by the program “A program”');
    // What its owner does by hand meanwhile is not the program's.
    await Promise.all([
      call('POST /stations', { name: 'Tor', zone: 'UTC' }),
      archiveGroup(db, coordinator, group.body.id, false),
    ]);
    const words = (await call('GET /audit')).body.items.slice(0, 2).map((line) => line.words);
    expect(words.sort()).toEqual([
      'brought back the group Archivists',
      'made the station Tor, by the program “A program”',
    ]);
    expect((await call('GET /audit')).body.items.length).toBeGreaterThan(20);
    expect((await call('GET /audit?from=yesterday')).body).toMatchObject({ errors: [{ field: 'from' }] });
  });

  it('tells who was asked and has answered, and closes an ask', async () => {
    const asked = await sendNow(db, {
      ask: {
        kind: 'acknowledgement',
        statement: 'I have read it',
        deadline: null,
        chase: USUAL_CHASE,
        within: null,
        joiners: false,
      },
      mail: false,
      audience: { kind: 'station', id: 1 },
    });
    await expandNow(db, asked);
    expect((await call('GET /asks')).body.items).toMatchObject([
      { id: asked, kind: 'acknowledgement', answered: 0 },
    ]);
    expect((await call(`GET /asks/${asked}`)).body.asked).toBe(121);
    expect((await call(`GET /asks/${asked}/roll?part=waiting`)).body.items).toHaveLength(100);
    await call(`POST /asks/${asked}/close`);
    expect((await call(`GET /asks/${asked}`)).body.closedAt).not.toBeNull();
  });

  it('writes and publishes automations, keeps series, boards and followed calendars', async () => {
    const over = (read: Called): Record<string, string> => ({ 'if-match': read.headers.get('etag') ?? '' });
    const group = await addGroup(db, 'Of the automation', []);
    const written = {
      ...newAutomation('By program', { kind: 'joins', groupId: group }),
      content: says('Welcome', 'Here you are.'),
    };
    const made = await call('POST /automations', written);
    const at = `/automations/${made.body.id}`;
    const first = await call(`GET ${at}`);
    expect(first.body).toMatchObject({ state: 'off', draft: { name: 'By program' }, live: null });
    const changed = await call(`PUT ${at}`, { ...written, name: 'By another' }, { headers: over(first) });
    expect(changed.body).toEqual({ revision: 2 });
    expect((await call(`PUT ${at}`, written, { headers: over(first) })).status).toBe(412);
    expect((await call(`POST ${at}/publish`, undefined, { headers: over(first) })).status).toBe(412);
    const worked = await call(`POST ${at}/publish`, undefined, { headers: over(changed) });
    expect(worked.body).toEqual({ version: 1 });
    const again = await call(`POST ${at}/publish`, undefined, { headers: over(changed) });
    expect(again.body).toEqual({ version: 2 });
    expect((await call(`GET ${at}`)).body).toMatchObject({ state: 'on', live: { name: 'By another' } });
    expect((await call(`PUT ${at}/people`, { people: [] })).body).toEqual({ people: [] });
    const copy = await call(`POST ${at}/copy`);
    await call(`POST /automations/${copy.body.id}/take-over`);
    expect((await call(`DELETE ${at}`)).status).toBe(409);
    await call(`POST ${at}/state`, { on: false });
    for (const each of [copy.body.id, made.body.id])
      expect((await call(`DELETE /automations/${each}`)).status).toBe(204);
    expect((await call(`GET ${at}`)).status).toBe(404);

    const frame = { name: 'The tray', heading: 'Tray {number}: ', byline: '', categories: ['Vaults'] };
    const series = (await call('POST /series', frame)).body.id;
    expect((await call('POST /series', frame)).status).toBe(422);
    await call(`PUT /series/${series}`, { ...frame, name: 'The seed tray' });
    expect((await call('GET /series')).body.items).toMatchObject([{ id: series, name: 'The seed tray' }]);
    const issue = await call(`POST /series/${series}/issues`);
    expect((await call(`GET /announcements/${issue.body.announcementId}`)).body.content.title).toContain(
      'Tray',
    );

    const board = (
      await call('POST /boards', { name: 'Made', about: 'By a program.', purpose: 'talk', groupId: null })
    ).body.id;
    await call(`PATCH /boards/${board}/settings`, { pinLimit: 7 });
    await call(`PUT /boards/${board}/links`, { links: [{ label: 'Rules', url: 'https://rules.example/' }] });
    await call(`PUT /boards/${board}/moderators/${people[4]}`);
    await call(`PUT /boards/${board}/moderators/${people[5]}`);
    await call(`DELETE /boards/${board}/moderators/${people[5]}`);
    await call('PUT /board-order', { ids: [board] });
    const settings = await call(`GET /boards/${board}/settings`);
    expect(settings.body).toMatchObject({ pinLimit: 7, links: [{ label: 'Rules' }], denied: null });
    expect(JSON.stringify(settings.body)).toContain(`"id":${people[4]}`);
    expect(JSON.stringify(settings.body)).not.toContain(`"id":${people[5]},`);

    const text = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//test//EN',
      'BEGIN:VEVENT',
      'UID:walk-1',
      'DTSTAMP:20260101T000000Z',
      'DTSTART:20350110T100000Z',
      'DTEND:20350110T110000Z',
      'SUMMARY:The walk',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n');
    const walks = {
      url: null,
      text,
      name: 'Walks',
      everyMinutes: 60,
      audience: { kind: 'everyone' },
      remindMinutes: null,
    };
    expect((await call('POST /followed-calendars', { ...walks, text: 'none' })).status).toBe(422);
    const calendar = (await call('POST /followed-calendars', walks)).body.id;
    await call(`PUT /followed-calendars/${calendar}`, {
      ...walks,
      name: 'All walks',
      text: null,
      revision: 1,
    });
    expect((await call('GET /followed-calendars')).body.items).toMatchObject([
      { name: 'All walks', url: null },
    ]);
    await call(`POST /followed-calendars/${calendar}/read`);
    expect((await call(`DELETE /followed-calendars/${calendar}?keep=no`)).status).toBe(204);
  });
});

describe('a token', () => {
  it('does what its scopes say, with the rights its owner has at the moment, until it is revoked', async () => {
    const [editorId = 0, otherId = 0] = people.slice(5);
    await db('people').whereIn('id', [editorId, otherId]).update({ role: 'editor' });
    const editor: Actor = { id: editorId, role: 'editor', moderates: new Set(), mayReach: new Set() };
    const narrow = await tokenFor(editor, ['announcements:read', 'people:write']);
    const wide = await tokenFor(editor);
    expect((await call('GET /token', undefined, { token: narrow })).body).toMatchObject({
      scopes: ['announcements:read', 'people:write'],
      owner: { id: editorId, role: 'editor' },
    });
    const refused = await call('POST /announcements', draft, { token: narrow });
    expect([refused.status, refused.body.detail]).toEqual([
      403,
      expect.stringContaining('announcements:write'),
    ]);
    // Its scope allows it, and its owner's role does not.
    const person = { name: 'X', mail: null, role: 'coordinator', stationId: null };
    expect((await call('POST /people', person, { token: wide })).status).toBe(403);
    const own = await call('POST /announcements', draft, { token: wide });
    const others = await call('POST /announcements', draft);
    expect((await call(`GET /announcements/${others.body.id}`, undefined, { token: wide })).status).toBe(404);
    expect((await call('GET /announcements', undefined, { token: wide })).body.items).toHaveLength(1);
    // Of another's key nothing is told.
    expect(
      (
        await call(`GET /announcements/${own.body.id}`, undefined, {
          token: await tokenFor({ ...editor, id: otherId }),
        })
      ).status,
    ).toBe(404);
    const lines = await listTokens(db, editor);
    expect(lines.map((line) => line.mine)).toEqual([true, true]);
    expect(lines[0]).toMatchObject({ calls: 4, name: 'A program' });
    expect((await listTokens(db, coordinator)).length).toBeGreaterThan(3);
    await expect(revokeToken(db, { ...editor, id: otherId }, lines[0]!.id)).rejects.toMatchObject({
      status: 404,
    });
    await revokeToken(db, editor, lines[0]!.id);
    expect((await call('GET /token', undefined, { token: wide })).status).toBe(401);
    await changeStanding(db, coordinator, editorId, true);
    expect((await call('GET /token', undefined, { token: narrow })).status).toBe(401);
    await changeStanding(db, coordinator, editorId, false);
    await db('api_tokens')
      .update({ expires_at: db.raw('NOW(3) - INTERVAL 1 SECOND') })
      .where({ person_id: editorId });
    expect((await call('GET /token', undefined, { token: narrow })).status).toBe(401);
    const kept = await rows<{ hash: Buffer }>(db, 'SELECT token_hash AS hash FROM api_tokens');
    expect(kept.every(({ hash }) => !hash.toString('latin1').includes(all.slice(10)))).toBe(true);
  });

  it('makes so many calls a minute, says how many are left, and is told when to go on', async () => {
    const attempts = new AttemptLimit(url);
    const token = await tokenFor(coordinator, ['people:read']);
    const first = await call('GET /token', undefined, { token, attempts });
    expect(first.headers.get('ratelimit-policy')).toBe('"minute";q=600;w=60');
    expect(first.headers.get('ratelimit')).toMatch(/^"minute";r=599;t=\d+$/);
    const [row] = await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM api_tokens');
    await db('rate_limits').where('key', 'like', `calls:${row!.id}`).update({ points: 600 });
    const refused = await call('GET /token', undefined, { token, attempts });
    expect(refused.status).toBe(429);
    expect(Number(refused.headers.get('retry-after'))).toBeGreaterThan(0);
  });

  it('is refused where nothing is, and says what an address takes', async () => {
    const at = async (method: string, path: string): Promise<Response> =>
      answerApi(
        { db, attempts: NO_LIMIT, base: BASE, settings },
        new Request(`${BASE}${path}`, { method, headers: { authorization: `Bearer ${all}` } }),
        path,
      );
    expect((await at('GET', '/nothing')).status).toBe(404);
    expect((await at('GET', '/people/0')).status).toBe(404);
    expect((await at('HEAD', '/stations')).status).toBe(200);
    const taken = await at('DELETE', '/people');
    expect([taken.status, taken.headers.get('allow')]).toEqual([405, 'GET, POST']);
    const none = await answerApi(
      { db, attempts: NO_LIMIT, base: BASE, settings },
      new Request(`${BASE}/token`),
      '/token',
    );
    expect([none.status, none.headers.get('www-authenticate')]).toEqual([401, 'Bearer']);
  });
});

describe('the ten tasks of the documentation', () => {
  it('are done by curl as they are written', async () => {
    ensureCommands({ curl: 'curl' }, () => undefined);
    const [board] = await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM boards');
    const group = await addGroup(db, 'Those of the cookbook', []);
    const sheet = await makeSheet(db, coordinator, {
      name: 'Readings',
      purpose: '',
      form: null,
      columns: [
        { id: 'c1', name: 'Station', kind: 'text', unit: '', choices: [] },
        { id: 'c2', name: 'Humidity', kind: 'number', unit: '%', choices: [] },
      ],
    });
    const server = createServer((request, response) => {
      void (async () => {
        const chunks: Buffer[] = [];
        for await (const chunk of request) chunks.push(chunk as Buffer);
        const path = (request.url ?? '').slice('/api/v1'.length);
        const answer = await answerApi(
          { db, attempts: NO_LIMIT, base: BASE, settings },
          new Request(`${BASE}${path}`, {
            method: request.method ?? 'GET',
            headers: request.headers as Record<string, string>,
            ...(chunks.length > 0 ? { body: Buffer.concat(chunks) } : {}),
          }),
          path.replace(/\?.*/, ''),
        );
        response.writeHead(answer.status, Object.fromEntries(answer.headers));
        response.end(await answer.text());
      })();
    });
    server.listen(0, '127.0.0.1');
    await once(server, 'listening');
    try {
      const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api/v1`;
      const env: Record<string, string> = {
        ...(process.env as Record<string, string>),
        URL: url,
        TOKEN: all,
        BOARD: String(board!.id),
        GROUP: String(group),
        SHEET: String(sheet),
      };
      const text = await readFile(join(import.meta.dirname, '../../docs/api.md'), 'utf8');
      const tasks = [...text.matchAll(/```sh\n([\s\S]*?)```/g)].map(([, task]) => task ?? '');
      expect(tasks).toHaveLength(10);
      const said: string[] = [];
      for (const task of tasks) {
        const { stdout } = await promisify(execFile)('sh', ['-c', task], { env });
        expect(stdout, task).not.toContain('application/problem+json');
        said.push(stdout);
        env.DRAFT = /location: .*announcements\/(\d+)/i.exec(stdout)?.[1] ?? env.DRAFT ?? '';
        env.SEND = /location: .*sends\/(\d+)/i.exec(stdout)?.[1] ?? env.SEND ?? '';
      }
      const parsed = (at: number): unknown => JSON.parse(said[at] ?? '');
      expect(parsed(2)).toMatchObject({ people: 122, problems: [] });
      expect(parsed(4)).toMatchObject({ state: 'scheduled', dueAt: '2035-01-08T08:30:00.000Z' });
      expect(parsed(5)).toEqual({ announcementId: Number(env.DRAFT) });
      expect(said[7]).toContain('"state":"up"');
      expect(parsed(8)).toEqual({ added: 1, already: 0, unknown: ['Nobody Known'] });
      expect(parsed(9)).toEqual({ added: 1 });
    } finally {
      server.close();
    }
  });
});

describe('what is done at the desk', () => {
  it.each(
    Object.entries({
      conversation,
      checkIns,
      outcomes,
      shelf,
      drafts,
      dates,
      patterns,
      tokens,
      lists,
      ...closer,
      settings: settingsByApi,
    }),
  )('is done by the API: %s', (_name, scenario) =>
    scenario({
      db,
      people,
      inside: settings.LOOKUP_ORIGINS,
      call: async (request, body) => {
        const { status, body: read } = await call(request, body, { headers: keyed() });
        return { status, body: read as never };
      },
    }),
  );
});

describe('the description of the API', () => {
  it('is OpenAPI 3.1, and every operation in it was called above', async () => {
    const result = await new Validator().validate(structuredClone(description));
    expect(result).toMatchObject({ valid: true });
    const documented = Object.values(description.paths).flatMap((methods) =>
      Object.values(methods).map(({ operationId }) => operationId),
    );
    expect(new Set(documented).size).toBe(documented.length);
    expect(documented.filter((id) => !called.has(id))).toEqual([]);
  });

  it('gives a client in TypeScript that compiles, and refuses what the API would', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'clear-bell-client-'));
    try {
      const types = astToString(
        await openapiTS(description as unknown as Parameters<typeof openapiTS>[0], {
          // What has a default may be left out of what is sent.
          defaultNonNullable: false,
        }),
      );
      await writeFile(join(folder, 'api.ts'), types);
      const use = (importance: string): string => `import type { operations } from './api.ts';
        type Body = operations['makeAnnouncement']['requestBody']['content']['application/json'];
        export const body: Body = { content: { title: 'x', importance: '${importance}', sections: [{ text: 'y' }] } };
        export type Sent = operations['sendAnnouncement']['responses']['201']['content']['application/json']['sendId'];
        export const id: Sent = 1;`;
      await writeFile(join(folder, 'good.ts'), use('urgent'));
      await writeFile(join(folder, 'bad.ts'), use('loud'));
      const problems = (file: string): string[] => {
        const program = ts.createProgram([join(folder, file)], {
          strict: true,
          noEmit: true,
          allowImportingTsExtensions: true,
          module: ts.ModuleKind.ESNext,
          moduleResolution: ts.ModuleResolutionKind.Bundler,
          target: ts.ScriptTarget.ES2022,
          types: [],
        });
        return ts
          .getPreEmitDiagnostics(program)
          .map(({ messageText }) => ts.flattenDiagnosticMessageText(messageText, ' '));
      };
      expect(problems('good.ts')).toEqual([]);
      expect(problems('bad.ts').join()).toContain('"loud"');
    } finally {
      await rm(folder, { recursive: true });
    }
  });
});
