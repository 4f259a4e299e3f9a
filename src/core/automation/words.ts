import { isNobody } from '../audience/expression.ts';
import { audienceWords, type AudienceNames } from '../audience/words.ts';
import { ruleWords } from '../timing/rule.ts';
import { zoneWords } from '../timing/words.ts';
import { list } from '../words.ts';
import {
  isAboutOne,
  isAboutPerson,
  type Automation,
  type Each,
  type Target,
  type Tell,
  type When,
} from './automation.ts';
import { conditionWords, testsIn, type Fields } from './condition.ts';
import { spanWords } from './dates.ts';

export const AUTOMATION_PHRASES = [
  'when',
  'if',
  'each',
  'lookup',
  'tell',
  'due',
  'from',
  'saying',
  'otherwise',
] as const;
export type AutomationPhraseKey = (typeof AUTOMATION_PHRASES)[number];

export interface AutomationPhrase {
  key: AutomationPhraseKey;
  lead: string;
  words: string;
}

/** The names an automation is read with; what is missing is read as what it was. */
export interface AutomationNames extends AudienceNames {
  board: (id: number) => string | undefined;
  outside: (id: number) => string | undefined;
  sheet: (id: number) => string | undefined;
  sender: (id: number) => string | undefined;
  source: (id: number) => string | undefined;
  hook: (id: number) => string | undefined;
  /** A session of the calendar, of whichever date. */
  calendarSession: (id: number) => string | undefined;
}

const GONE = 'that no longer exists';

export function whenWords(when: When, names: AutomationNames, fields: Fields): string {
  const group = (id: number): string => names.group(id) ?? `a group ${GONE}`;
  const sheet = (id: number): string => names.sheet(id) ?? `a record sheet ${GONE}`;
  const column = (id: string): string => fields.get(`record.${id}`)?.label ?? 'a column that is gone';
  switch (when.kind) {
    case 'joins':
      return `somebody comes into ${group(when.groupId)}`;
    case 'leaves':
      return `somebody goes out of ${group(when.groupId)}`;
    case 'schedule': {
      const clock = when.zone === null ? 'their time' : `in ${zoneWords(when.zone)}`;
      const recurs = `it is ${when.start.slice(11)} ${clock} ${ruleWords(when.rule, when.start)}`;
      return when.sheetId === null ? recurs : `${recurs}, of the records in ${sheet(when.sheetId)}`;
    }
    case 'meets':
      return `a record in ${sheet(when.sheetId)} comes to meet this${when.again ? ', each time it does' : ''}`;
    case 'sent in':
      return `the form of ${sheet(when.sheetId)} is sent in`;
    case 'changes':
      return `${column(when.column)} of a record in ${sheet(when.sheetId)} changes`;
    case 'date': {
      const date = `${column(when.column)} of a record in ${sheet(when.sheetId)}`;
      const hour =
        fields.get(`record.${when.column}`)?.kind === 'moment'
          ? ''
          : ` ${when.time} in ${zoneWords(when.zone)},`;
      return `it is${hour} ${spanWords(when.span, when.unit)} ${date}`;
    }
    case 'called':
      return `${names.hook(when.hookId) ?? `a way in ${GONE}`} sends something`;
    case 'session': {
      const session = names.calendarSession(when.sessionId);
      const edge = `${session === undefined ? `a session ${GONE}` : `“${session}”`} ${when.edge}`;
      if (when.span === 0) return edge;
      return `it is ${spanWords(when.span, when.unit)} ${edge}`;
    }
    case 'ask closes':
      return `${askedWords(when)} closes`;
    case 'ask answered':
      return `${when.share === 100 ? 'everybody' : `${when.share} % of those`} asked by ${askedWords(when)} ${when.share === 100 ? 'has' : 'have'} answered`;
    case 'person date':
      return `it is ${when.time} their time, ${spanWords(when.span, 'days')} ${when.of ? `the “${when.of.name}” of somebody in ${group(when.groupId)}` : `the day somebody in ${group(when.groupId)} joined`}${when.yearly ? ', each year' : ''}`;
  }
}

const ASKS = {
  any: 'something',
  acknowledgement: 'an acknowledgement',
  poll: 'a poll',
  'check-in': 'a check-in',
} as const;
type OfAsks = Pick<Extract<When, { kind: 'ask closes' }>, 'asks' | 'whose'>;

/** "a poll that was sent", "something its owner asked". */
const askedWords = ({ asks, whose }: OfAsks): string =>
  `${ASKS[asks]} ${whose === 'own' ? 'its owner asked' : 'that was asked'}`;

export const INVITED_WORDS: Record<Extract<Target, { kind: 'invited' }>['which'], string> = {
  all: 'everybody it is for',
  'not declined': 'those it is for who have not said no',
  coming: 'those who come',
  silent: 'those it is for who have said nothing',
};
export const ASKED_WORDS: Record<Extract<Target, { kind: 'asked' }>['which'], string> = {
  all: 'everybody who was asked',
  silent: 'those who have not answered',
  answered: 'those who have answered',
};

/** How it is said that no condition is made. */
const ANYTHING: Partial<Record<When['kind'], string>> = {
  session: 'whoever comes',
  'ask closes': 'whatever came of it',
  'ask answered': 'whatever they answered',
};

function eachWords(each: Each, fields: Fields): string {
  switch (each.kind) {
    case 'each':
      return 'each record';
    case 'group':
      return `each ${fields.get(each.field)?.label ?? 'column that is gone'}`;
    case 'once':
      return 'all of them at once';
  }
}

/** Whom an automation tells in person; null where it only goes up on boards. */
export function whomWords({ to }: Pick<Tell, 'to'>, names: AutomationNames, fields: Fields): string | null {
  switch (to?.kind) {
    case undefined:
      return null;
    case 'audience':
      return isNobody(to.audience) ? null : audienceWords(to.audience, names);
    case 'person':
      return 'that person';
    case 'named':
      return `whoever ${fieldLabel(to.field, fields)} names${to.system === '' ? '' : ` in ${to.system}`}`;
    case 'owner':
      return `whoever looks after ${names.group(to.groupId) ?? `a group ${GONE}`}`;
    case 'invited':
      return INVITED_WORDS[to.which];
    case 'asked':
      return ASKED_WORDS[to.which];
    case 'author':
      return 'whoever asked';
  }
}

const fieldLabel = (field: string, fields: Fields): string =>
  fields.get(field)?.label ?? 'a column that is gone';

function tellWords(tell: Tell, names: AutomationNames, fields: Fields): string {
  const { boards, outside, boardField, mail } = tell;
  const whom = whomWords(tell, names, fields);
  const places = [
    ...boards.map((id) => names.board(id) ?? `a board ${GONE}`),
    ...(boardField === null ? [] : [`the one that ${fieldLabel(boardField, fields)} names`]),
  ];
  const direct = whom === null ? '' : `${whom} by ${mail ? 'inbox and mail' : 'inbox'}`;
  const up =
    places.length === 0 ? '' : `on the ${places.length === 1 ? 'board' : 'boards'} ${list(places, 'and')}`;
  const beyond = outside.map((id) => names.outside(id) ?? `an outside place ${GONE}`);
  const out =
    beyond.length === 0
      ? ''
      : `the outside ${beyond.length === 1 ? 'place' : 'places'} ${list(beyond, 'and')}`;
  return [direct, up, out].filter(Boolean).join(', and ') || 'nobody yet';
}

function otherwiseWords(tell: Tell, names: AutomationNames): string {
  const { otherwise } = tell;
  if (!otherwise || (!otherwise.audience && otherwise.boards.length === 0)) return 'nobody';
  const boards = otherwise.boards.map((id) => names.board(id) ?? `a board ${GONE}`);
  return list(
    [
      ...(otherwise.audience ? [audienceWords(otherwise.audience, names)] : []),
      ...(boards.length > 0
        ? [`the ${boards.length === 1 ? 'board' : 'boards'} ${list(boards, 'and')}`]
        : []),
    ],
    'and',
  );
}

/**
 * An automation as the sentence a coordinator reads: "When somebody comes into Sant Elm, for each person, tell that person
 * by inbox and mail, at 08:30 their time, from The welcome desk, saying “Welcome to Sant Elm”." Phrases that say nothing in
 * it are left out, so that what can be pressed is what it does.
 */
export function automationSentence(
  automation: Automation,
  fields: Fields,
  names: AutomationNames,
): AutomationPhrase[] {
  const { when, tell, due, lookup } = automation;
  const phrase = (key: AutomationPhraseKey, lead: string, words: string): AutomationPhrase => ({
    key,
    lead,
    words,
  });
  const reads = when.kind !== 'schedule' || when.sheetId !== null;
  const [person, one] = [isAboutPerson(when), isAboutOne(when)];
  const always = testsIn(automation.if).length === 0;
  const finds = tell.to?.kind === 'named' || tell.boardField !== null || tell.to?.kind === 'owner';
  return [
    phrase('when', 'When', whenWords(when, names, fields)),
    ...(reads
      ? [
          phrase(
            'if',
            always ? '' : 'and if',
            always
              ? (ANYTHING[when.kind] ?? (person ? 'whoever it is' : 'whatever it holds'))
              : conditionWords(automation.if, fields),
          ),
          ...(one ? [] : [phrase('each', 'then for', eachWords(automation.each, fields))]),
          phrase(
            'lookup',
            'looking up',
            lookup === null ? 'nothing' : (names.source(lookup.sourceId) ?? `a source ${GONE}`),
          ),
        ]
      : []),
    phrase('tell', 'tell', tellWords(tell, names, fields)),
    ...(when.kind === 'schedule' && when.zone === null
      ? []
      : [
          phrase(
            'due',
            due.kind === 'hour' ? 'at' : '',
            due.kind === 'hour' ? `${due.time} their time` : 'at once',
          ),
        ]),
    phrase(
      'from',
      'from',
      automation.senderId === null
        ? 'whoever looks after it'
        : (names.sender(automation.senderId) ?? `a sender ${GONE}`),
    ),
    phrase(
      'saying',
      'saying',
      automation.content.title.trim() === '' ? 'nothing yet' : `“${automation.content.title.trim()}”`,
    ),
    ...(finds ? [phrase('otherwise', 'or where none is found', otherwiseWords(tell, names))] : []),
  ];
}

/** The sentence to be read and not pressed: without phrases that stand there only to be changed. */
export const automationText = (phrases: readonly AutomationPhrase[]): string =>
  `${phrases
    .filter(
      ({ key, lead, words }) => !(key === 'lookup' && words === 'nothing') && !(key === 'if' && lead === ''),
    )
    .map(({ lead, words }) => [lead, words].filter(Boolean).join(' '))
    .join(', ')}.`;

/** By what something was said that nobody sent by hand: an automation, or a way in from outside. */
export interface SaidBy {
  kind: 'automation' | 'hook';
  name: string;
  /** Who looks after it. */
  owner: string;
}

/** What every reader of something that was said by itself is told. */
export const byItselfWords = ({ kind, name, owner }: SaidBy): string =>
  kind === 'automation'
    ? `It was sent by itself, by the automation “${name}”, which ${owner} looks after.`
    : `It came in from outside, by “${name}”, which ${owner} looks after.`;
