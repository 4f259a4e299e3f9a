import type { SheetColumn } from '../sheets/sheet.ts';
import { isAboutPerson, listensToAsks, type When } from './automation.ts';
import type { OnPersonDate } from './dates.ts';
import type { FieldInfo, Fields } from './condition.ts';
import { fieldsOfSheet } from '../sheets/view.ts';

const text = (name: string, label: string): FieldInfo => ({
  name,
  label,
  kind: 'text',
  unit: '',
  choices: [],
});

/** What is known of the person who came or went. */
const PERSON_FIELDS: readonly FieldInfo[] = [
  text('person.name', 'their name'),
  text('person.first name', 'their first name'),
  text('person.station', 'their station'),
  text('person.occupation', 'their occupation'),
  text('person.group', 'the group'),
];

/** What is known besides of the person whose day it is. */
const personDateFields = ({ of }: OnPersonDate): readonly FieldInfo[] => [
  of
    ? { ...text('person.date', `their “${of.name}”`), kind: 'date' }
    : { ...text('person.joined', 'the day they joined'), kind: 'date' },
  { ...text('person.years', 'how many years'), kind: 'number' },
];

const number = (name: string, label: string, unit = ''): FieldInfo => ({
  ...text(name, label),
  kind: 'number',
  unit,
});
const moment = (name: string, label: string): FieldInfo => ({ ...text(name, label), kind: 'moment' });

/** What is known of a date of a session. */
const SESSION_FIELDS: readonly FieldInfo[] = [
  text('session.title', 'the session'),
  moment('session.begins', 'when it begins'),
  moment('session.ends', 'when it ends'),
  text('session.place', 'where it is'),
  text('session.link', 'where to join it'),
  text('session.about', 'what it is about'),
  text('session.note', 'the word on this date'),
  number('session.coming', 'how many come'),
  number('session.perhaps', 'how many perhaps come'),
  number('session.waiting', 'how many wait for a place'),
  number('session.free', 'how many places are free'),
];

/** What is known of an ask that closed or was answered. */
const ASK_FIELDS: readonly FieldInfo[] = [
  text('ask.title', 'the announcement'),
  {
    ...text('ask.kind', 'what was asked for'),
    kind: 'choice',
    choices: ['acknowledgement', 'poll', 'check-in'],
  },
  text('ask.author', 'who asked'),
  text('ask.outcome', 'what came of it'),
  number('ask.asked', 'how many were asked'),
  number('ask.answered', 'how many have answered'),
  number('ask.silent', 'how many have not answered'),
  number('ask.share', 'how many of those asked have answered', '%'),
];

/** What a column held before it changed. */
const heldBefore = (column: SheetColumn | undefined): FieldInfo => ({
  name: 'run.before',
  label: `${column?.name ?? 'the column'} before`,
  kind: column?.kind ?? 'text',
  unit: column?.unit ?? '',
  choices: column?.choices ?? [],
});

/** What is known of the run itself. */
const RUN_FIELDS: readonly FieldInfo[] = [
  { ...text('run.count', 'how many'), kind: 'number' },
  { ...text('run.date', 'the date'), kind: 'date' },
];

/** A field that a look-up or a message from outside brings, as its source or way in names and types it. */
export interface FoundField {
  name: string;
  kind: FieldInfo['kind'];
  unit: string;
}

const outside = (from: 'call' | 'found', { name, kind, unit }: FoundField): FieldInfo => ({
  name: `${from}.${name}`,
  label: name,
  kind,
  unit,
  choices: [],
});

/** Every field that conditions and texts of an automation can name, by its name. */
export function fieldsOf(
  when: When,
  columns: readonly SheetColumn[],
  found: readonly FoundField[] = [],
  called: readonly FoundField[] = [],
): Fields {
  const fields: FieldInfo[] = [
    ...(isAboutPerson(when) ? PERSON_FIELDS : []),
    ...fieldsOfSheet(columns).values(),
    ...called.map((field) => outside('call', field)),
    ...found.map((field) => outside('found', field)),
    ...(when.kind === 'session' ? SESSION_FIELDS : []),
    ...(listensToAsks(when) ? ASK_FIELDS : []),
    ...RUN_FIELDS,
    ...(when.kind === 'changes' ? [heldBefore(columns.find((column) => column.id === when.column))] : []),
    ...(when.kind === 'person date' ? personDateFields(when) : []),
  ];
  return new Map(fields.map((field) => [field.name, field]));
}

/** Fields that are always filled in. */
export const ALWAYS_FILLED: ReadonlySet<string> = new Set([
  'person.name',
  'person.first name',
  'person.group',
  'person.date',
  'person.joined',
  'person.years',
  'run.count',
  'run.date',
  'session.title',
  'session.begins',
  'session.ends',
  'session.coming',
  'session.perhaps',
  'session.waiting',
  ...ASK_FIELDS.map(({ name }) => name),
]);
