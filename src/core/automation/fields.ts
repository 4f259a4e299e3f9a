import type { SheetColumn } from '../sheets/sheet.ts';
import { isAboutPerson, type When } from './automation.ts';
import type { FieldInfo, Fields } from './condition.ts';

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
const PERSON_DATE_FIELDS: readonly FieldInfo[] = [
  { ...text('person.joined', 'the day they joined'), kind: 'date' },
  { ...text('person.years', 'how many years'), kind: 'number' },
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
    ...columns.map((column): FieldInfo => ({
      name: `record.${column.id}`,
      label: column.name,
      kind: column.kind,
      unit: column.unit,
      choices: column.choices,
    })),
    ...called.map((field) => outside('call', field)),
    ...found.map((field) => outside('found', field)),
    ...RUN_FIELDS,
    ...(when.kind === 'changes' ? [heldBefore(columns.find((column) => column.id === when.column))] : []),
    ...(when.kind === 'person date' ? PERSON_DATE_FIELDS : []),
  ];
  return new Map(fields.map((field) => [field.name, field]));
}

/** Fields that are always filled in. */
export const ALWAYS_FILLED: ReadonlySet<string> = new Set([
  'person.name',
  'person.first name',
  'person.group',
  'person.joined',
  'person.years',
  'run.count',
  'run.date',
]);
