import { UnreadableList } from '../imports/reading.ts';

const MOST_NAMES = 300;

/** A value as it is written into a cell; undefined where none of one kind. */
function written(value: unknown): string | undefined {
  if (value === null || value === undefined) return '';
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return String(value);
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : undefined;
}

/** Whether a file is JSON rather than a list of cells, by what it begins with. */
export const looksLikeJson = (text: string): boolean => /^\s*[[{]/.test(text);

/**
 * Reads records from JSON (RFC 8259): an array of objects, or an object of which one member is such an array. The names of their
 * members are the headings, in the order in which they first come.
 *
 * @throws UnreadableList with a sentence that says what is wrong and what to do
 */
export function readJsonRecords(text: string): {
  headings: string[];
  rows: { line: number; cells: string[] }[];
} {
  let found: unknown;
  try {
    found = JSON.parse(text);
  } catch (error) {
    throw new UnreadableList(
      `This is no JSON: ${error instanceof Error ? error.message : 'it cannot be read'}. Take it out of the other program again.`,
    );
  }
  if (found !== null && typeof found === 'object' && !Array.isArray(found))
    found = Object.values(found).find((member) => Array.isArray(member)) ?? found;
  if (!Array.isArray(found))
    throw new UnreadableList('There is no list of records in this file. It is to hold an array of objects.');
  const headings: string[] = [];
  const places = new Map<string, number>();
  const rows = found.map((record: unknown, at) => {
    const line = at + 1;
    if (record === null || typeof record !== 'object' || Array.isArray(record))
      throw new UnreadableList(
        `Record ${line} is no object: each record is one, with a name for each value.`,
      );
    const cells: string[] = [];
    for (const [name, value] of Object.entries(record)) {
      const text = written(value);
      if (text === undefined)
        throw new UnreadableList(
          `“${name}” of record ${line} holds ${Array.isArray(value) ? 'a list' : 'an object'}. A cell holds one text, number, yes or no.`,
        );
      let place = places.get(name);
      if (place === undefined) {
        place = headings.push(name) - 1;
        places.set(name, place);
        if (headings.length > MOST_NAMES)
          throw new UnreadableList(`The records have more than ${MOST_NAMES} names for their values.`);
      }
      cells[place] = text;
    }
    return { line, cells };
  });
  return {
    headings,
    rows: rows.map(({ line, cells }) => ({ line, cells: headings.map((_, i) => cells[i] ?? '') })),
  };
}
