import { WEEKLY, type Rule } from '../timing/rule.ts';
import type { SheetColumn } from '../sheets/sheet.ts';
import type { TemplateField } from '../content/field.ts';
import type { Automation } from './automation.ts';
import type { AutomationChoices } from './choices.ts';
import type { Condition } from './condition.ts';
import { inputsOf } from './source.ts';
import { automation, bullets, filled, nobody, paragraph } from './writing.ts';

/** What a template asks for: only what differs from one organisation to the next. */
export type Asked = 'group' | 'board' | 'sheet' | 'source' | 'session' | 'hour';

/** What was answered; null where it was not asked for or there is none of it. */
export interface Answered {
  name: string;
  groupId: number | null;
  boardId: number | null;
  sheetId: number | null;
  sourceId: number | null;
  sessionId: number | null;
  /** HH:MM. */
  hour: string;
}

export interface Template {
  key: string;
  /** What it does, as it is chosen. */
  words: string;
  asks: readonly Asked[];
  hour: string;
  /** Which record sheets it can be made of. */
  sheets?: (columns: readonly SheetColumn[]) => boolean;
  make: (given: Answered, around: Around) => Automation;
}

interface Around {
  choices: AutomationChoices;
  /** The zone of whoever writes, and tomorrow there, YYYY-MM-DD. */
  zone: string;
  tomorrow: string;
}

const record = (column: SheetColumn): TemplateField => `record.${column.id}`;
const columnsOf = ({ sheetId }: Answered, { choices }: Around): SheetColumn[] =>
  choices.sheets.find((sheet) => sheet.id === sheetId)?.columns ?? [];
const ofKind = (columns: readonly SheetColumn[], kind: SheetColumn['kind']): SheetColumn[] =>
  columns.filter((column) => column.kind === kind);
const nameOf = (list: readonly { id: number; name: string }[], id: number | null): string =>
  list.find((each) => each.id === id)?.name ?? '';
const toGroup = ({ groupId }: Answered): Automation['tell']['to'] => ({
  kind: 'audience',
  audience: { kind: 'group', id: groupId ?? 0 },
});
const upOn = ({ boardId }: Answered): number[] => (boardId === null ? [] : [boardId]);
const recurring = (
  { hour }: Answered,
  { zone, tomorrow }: Around,
  rule: Rule,
  sheetId: number | null,
  own = false,
): Automation['when'] => ({
  kind: 'schedule',
  start: `${tomorrow}T${hour}`,
  zone: own ? null : zone,
  rule,
  sheetId,
});
const daily: Rule = { ...WEEKLY, freq: 'daily' };
const list = (columns: readonly SheetColumn[]) =>
  bullets(
    ...columns
      .slice(0, 6)
      .map((column) => [`${column.name}: `, [record(column), 'not said'] as [TemplateField, string]]),
  );
const today = (column: SheetColumn): Condition => ({
  kind: 'test',
  field: record(column),
  test: 'is',
  against: { kind: 'now', span: 0, unit: 'days' },
});

/** Beginnings that are met again and again: each is written whole, and is changed like any other. */
export const TEMPLATES: readonly Template[] = [
  {
    key: 'welcome',
    words: 'Welcome whoever comes into a group, in their morning',
    asks: ['group', 'board', 'hour'],
    hour: '08:30',
    make: (given, { choices }) => {
      const group = nameOf(choices.audience.groups, given.groupId);
      return automation(
        given.name,
        { kind: 'joins', groupId: given.groupId ?? 0 },
        {
          tell: { ...nobody, to: { kind: 'person' }, boards: upOn(given), mail: true },
          due: { kind: 'hour', time: given.hour },
          title: `Welcome to ${group}, {their first name}`,
          blocks: [
            paragraph('Good that you are here, ', ['person.first name'], '. This is what happens next:'),
            bullets(
              ['Who shows you round, and when.'],
              ['What you can do already.'],
              [`What is going on stands on the board of ${group}.`],
            ),
          ],
        },
      );
    },
  },
  {
    key: 'before a meeting',
    words: 'Remind a group shortly before what it meets for each week',
    asks: ['group', 'board', 'hour'],
    hour: '14:40',
    make: (given, around) =>
      automation(given.name, recurring(given, around, { ...WEEKLY }, null), {
        tell: { ...nobody, to: toGroup(given), boards: upOn(given) },
        title: 'In twenty minutes: our meeting',
        blocks: [paragraph('Where it is, how long it takes, and what to bring.')],
      }),
  },
  {
    key: 'before a session',
    words: 'Remind those a session of the calendar is for, twenty minutes before each date',
    asks: ['session', 'board'],
    hour: '',
    make: (given) =>
      automation(
        given.name,
        { kind: 'session', sessionId: given.sessionId ?? 0, span: -20, unit: 'minutes', edge: 'begins' },
        {
          tell: {
            ...nobody,
            to: { kind: 'invited', which: 'not declined' },
            boards: upOn(given),
            mail: true,
          },
          title: 'In twenty minutes: {the session}',
          blocks: [
            paragraph('It begins at ', ['session.begins'], '.'),
            bullets(
              ['Where: ', ['session.place', 'where it usually is']],
              ['To join it: ', ['session.link', 'no address is needed']],
            ),
          ],
        },
      ),
  },
  {
    key: 'ask closes',
    words: 'Tell whoever asked what came of it, when their ask closes or is due',
    asks: [],
    hour: '',
    make: (given) =>
      automation(
        given.name,
        { kind: 'ask closes', asks: 'any', whose: 'own' },
        {
          tell: { ...nobody, to: { kind: 'author' } },
          title: '{how many have answered} of {how many were asked} answered “{the announcement}”',
          blocks: [
            paragraph(['ask.outcome']),
            paragraph(['ask.silent'], ' of those asked have not answered.'),
          ],
        },
      ),
  },
  {
    key: 'evening reminder',
    words: 'Remind a group at the end of its working day, on each reader’s clock',
    asks: ['group', 'hour'],
    hour: '17:30',
    make: (given, around) =>
      automation(
        given.name,
        recurring(given, around, { ...WEEKLY, weekdays: ['MO', 'TU', 'WE', 'TH', 'FR'] }, null, true),
        {
          tell: { ...nobody, to: toGroup(given) },
          title: 'Before you go',
          blocks: [paragraph('What must not be forgotten this evening.')],
        },
      ),
  },
  {
    key: 'complete record',
    words: 'Tell the person a record names, as soon as it is complete',
    asks: ['sheet', 'board'],
    hour: '',
    sheets: (columns) => columns.some(({ kind }) => kind === 'person'),
    make: (given, around) => {
      const columns = columnsOf(given, around);
      const [person] = ofKind(columns, 'person');
      const [first] = columns;
      return automation(
        given.name,
        { kind: 'meets', sheetId: given.sheetId ?? 0, again: false },
        {
          if: filled(...columns.map(record)),
          tell: {
            ...nobody,
            to: person ? { kind: 'named', field: record(person), system: '' } : null,
            boards: upOn(given),
            mail: true,
            otherwise: { audience: { kind: 'role', role: 'coordinator' }, boards: [] },
          },
          title: first ? `{${first.name}} is complete` : 'A record is complete',
          blocks: [paragraph('What is asked for, and by when it is to be decided:'), list(columns)],
        },
      );
    },
  },
  {
    key: 'past a limit',
    words: 'Post a table of those past a limit, and nothing where there are none',
    asks: ['sheet', 'board', 'hour'],
    hour: '07:00',
    sheets: (columns) => ofKind(columns, 'number').length >= 2,
    make: (given, around) => {
      const columns = columnsOf(given, around);
      const [value, limit] = ofKind(columns, 'number');
      return automation(
        given.name,
        recurring(given, around, { ...WEEKLY, weekdays: ['WE', 'SA'] }, given.sheetId),
        {
          if:
            value && limit
              ? {
                  kind: 'test',
                  field: record(value),
                  test: 'is over',
                  against: { kind: 'field', field: record(limit), share: 90 },
                }
              : { kind: 'any', of: [] },
          each: { kind: 'once' },
          tell: { ...nobody, boards: upOn(given) },
          title: `{how many} past nine tenths of ${limit?.name ?? 'their limit'}`,
          blocks: [paragraph('Look at these:')],
          table: {
            columns: columns.slice(0, 6).map(record),
            order: value ? { field: record(value), descending: true } : null,
            most: 20,
          },
        },
      );
    },
  },
  {
    key: 'look up for each',
    words: 'Tell whoever is named for today what an outside source says of their place',
    asks: ['sheet', 'source', 'hour'],
    hour: '05:45',
    sheets: (columns) =>
      ofKind(columns, 'date').length > 0 &&
      ofKind(columns, 'person').length > 0 &&
      ofKind(columns, 'text').length > 0,
    make: (given, around) => {
      const columns = columnsOf(given, around);
      const [day] = ofKind(columns, 'date');
      const [person] = ofKind(columns, 'person');
      const [place] = ofKind(columns, 'text');
      const source = around.choices.sources.find((each) => each.id === given.sourceId);
      return automation(given.name, recurring(given, around, daily, given.sheetId), {
        if: day && place ? { kind: 'all', of: [today(day), filled(record(place))] } : { kind: 'any', of: [] },
        each: { kind: 'each' },
        lookup:
          source && place
            ? {
                sourceId: source.id,
                inputs: Object.fromEntries(inputsOf(source.url).map((input) => [input, record(place)])),
              }
            : null,
        tell: {
          ...nobody,
          to: person ? { kind: 'named', field: record(person), system: '' } : null,
          mail: true,
          otherwise: { audience: { kind: 'role', role: 'coordinator' }, boards: [] },
        },
        title: place ? `{${place.name}} today` : 'Today',
        blocks: [
          bullets(
            ...(source?.fields ?? []).map((field) => [
              `${field.name}: `,
              [`found.${field.name}`, 'not known'] as [TemplateField, string],
            ]),
          ),
        ],
      });
    },
  },
  {
    key: 'form sent in',
    words: 'Tell a group when a form is sent in',
    asks: ['sheet', 'group'],
    hour: '',
    make: (given, around) => {
      const columns = columnsOf(given, around);
      const [first] = columns;
      return automation(
        given.name,
        { kind: 'sent in', sheetId: given.sheetId ?? 0 },
        {
          if: first ? filled(record(first)) : { kind: 'all', of: [] },
          tell: { ...nobody, to: toGroup(given) },
          title: first ? `Asked for: {${first.name}}` : 'Something is asked for',
          blocks: [list(columns)],
        },
      );
    },
  },
];

/** What a template lacks here, in words; null where it can be made. */
export function templateLacks(template: Template, choices: AutomationChoices): string | null {
  const { key, asks } = template;
  const fitting = sheetsFor(template, choices);
  if (asks.includes('group') && choices.audience.groups.length === 0) return 'There is no group yet.';
  if (asks.includes('sheet') && fitting.length === 0)
    return key === 'form sent in'
      ? 'No record sheet has a form yet.'
      : 'No record sheet has the columns it needs yet.';
  if (asks.includes('session') && choices.sessions.length === 0) return 'No session lies ahead.';
  if (asks.includes('source') && choices.sources.length === 0) return 'There is no source yet.';
  return null;
}

/** The record sheets a template can be made of. */
export const sheetsFor = (
  { key, sheets }: Pick<Template, 'key' | 'sheets'>,
  choices: AutomationChoices,
): AutomationChoices['sheets'] =>
  choices.sheets.filter((sheet) => (key === 'form sent in' ? sheet.form : (sheets?.(sheet.columns) ?? true)));
