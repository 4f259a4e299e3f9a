/** What a document of ours names by its id. */
export const REFERENCES = {
  group: 'the group',
  station: 'the station',
  person: '',
  board: 'the board',
  sheet: 'the record sheet',
  sender: 'the sender',
  source: 'the source',
  hook: 'the way in',
  place: 'the outside place',
  series: 'the series',
  occurrence: 'something that was sent',
  date: 'a date of the calendar',
  session: 'the session',
} as const;
export type ReferenceKind = keyof typeof REFERENCES;
export interface Reference {
  kind: ReferenceKind;
  id: number;
}

/** The fields that hold one id, whatever they stand in. */
export const ID_FIELDS: Readonly<Record<string, ReferenceKind>> = {
  groupId: 'group',
  sheetId: 'sheet',
  senderId: 'sender',
  sourceId: 'source',
  hookId: 'hook',
  seriesId: 'series',
  occurrenceId: 'occurrence',
  dateId: 'date',
  sessionId: 'session',
  sessionDateId: 'date',
};
/** The fields that hold a list of ids. */
export const LIST_FIELDS: Readonly<Record<string, ReferenceKind>> = {
  boards: 'board',
  outside: 'place',
  digestOn: 'board',
};
/** What has an `id` and a `kind` of this, of an audience or a mention, names one of these. */
export const ID_KINDS: Readonly<Record<string, ReferenceKind>> = {
  group: 'group',
  station: 'station',
  person: 'person',
};

/**
 * A document (an audience, an automation, a rule) with every id in it as it is given.
 *
 * @param as gives the id for a reference
 */
export function withReferences<T>(document: T, as: (reference: Reference) => number): T {
  const walk = (value: unknown, field: string): unknown => {
    if (Array.isArray(value)) {
      const kind = LIST_FIELDS[field];
      return value.map((each) =>
        kind !== undefined && typeof each === 'number' ? as({ kind, id: each }) : walk(each, ''),
      );
    }
    if (typeof value === 'number') {
      const kind = ID_FIELDS[field];
      return kind === undefined ? value : as({ kind, id: value });
    }
    if (typeof value !== 'object' || value === null) return value;
    const kind = 'kind' in value && typeof value.kind === 'string' ? ID_KINDS[value.kind] : undefined;
    return Object.fromEntries(
      Object.entries(value).map(([name, inner]) => [
        name,
        name === 'id' && kind !== undefined && typeof inner === 'number'
          ? as({ kind, id: inner })
          : walk(inner, name),
      ]),
    );
  };
  return walk(document, '') as T;
}

/** What a document names, each once. */
export function referencesIn(document: unknown): Reference[] {
  const found = new Map<string, Reference>();
  withReferences(document, (reference) => {
    found.set(`${reference.kind}:${reference.id}`, reference);
    return reference.id;
  });
  return [...found.values()];
}

const COLUMN = /^c\d{1,4}$/;
const FIELD = /^record\.(c\d{1,4})$/;

/**
 * An automation with every column of its sheet as it is given: where it names a field of the record, and where it listens to a column.
 *
 * @param as gives the id for the id of a column
 */
export function withColumns<T>(document: T, as: (column: string) => string): T {
  const walk = (value: unknown, field: string): unknown => {
    if (typeof value === 'string') {
      const [, column] = FIELD.exec(value) ?? [];
      if (column !== undefined) return `record.${as(column)}`;
      return field === 'column' && COLUMN.test(value) ? as(value) : value;
    }
    if (Array.isArray(value)) return value.map((each) => walk(each, ''));
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, walk(inner, name)]));
  };
  return walk(document, '') as T;
}

/** The columns of its sheet that an automation names, each once. */
export function columnsIn(document: unknown): string[] {
  const found = new Set<string>();
  withColumns(document, (column) => {
    found.add(column);
    return column;
  });
  return [...found];
}
