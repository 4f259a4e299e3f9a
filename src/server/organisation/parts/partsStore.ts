import { rows, type Database } from '../../database/connection.ts';

const AT_ONCE = 500;

async function inChunks<T>(
  values: readonly string[],
  ask: (some: readonly string[], marks: string) => Promise<T[]>,
): Promise<T[]> {
  const found: T[] = [];
  for (let i = 0; i < values.length; i += AT_ONCE) {
    const some = values.slice(i, i + AT_ONCE);
    found.push(...(await ask(some, some.map(() => '?').join(', '))));
  }
  return found;
}

/** Who is here under mail addresses, whichever of theirs it is: by address in small letters. */
export const peopleUnder = (
  db: Database,
  mails: readonly string[],
): Promise<{ mail: string; id: number }[]> =>
  inChunks(mails, (some, marks) =>
    rows(
      db,
      `SELECT LOWER(p.mail) AS mail, p.id FROM people p WHERE p.standing <> 'left' AND p.linked_to IS NULL AND p.mail IN (${marks})
       UNION SELECT LOWER(a.mail), p.id FROM person_addresses a JOIN people p ON p.id = a.person_id
         WHERE p.standing <> 'left' AND p.linked_to IS NULL AND a.mail IN (${marks})`,
      [...some, ...some],
    ),
  );

/** Who is here under identities, of those values in any system. */
export const peopleIdentified = (
  db: Database,
  values: readonly string[],
): Promise<{ system: string; folded: string; id: number }[]> =>
  inChunks(values, (some, marks) =>
    rows(
      db,
      `SELECT i.in_system AS \`system\`, i.folded, p.id FROM identities i JOIN people p ON p.id = i.person_id
       WHERE p.standing <> 'left' AND p.linked_to IS NULL AND i.folded IN (${marks})`,
      some,
    ),
  );

/** Who of some people is in a fixed group already. */
export async function membersAmong(db: Database, groupId: number): Promise<Set<number>> {
  const found = await rows<{ id: number }>(
    db,
    'SELECT person_id AS id FROM group_members WHERE group_id = ?',
    [groupId],
  );
  return new Set(found.map(({ id }) => id));
}

/** Which of some uploads are here. */
export async function uploadsHere(db: Database, keys: readonly string[]): Promise<Set<string>> {
  const found = await inChunks(keys, (some, marks) =>
    rows<{ key: string }>(
      db,
      `SELECT upload_key AS \`key\` FROM uploads WHERE upload_key IN (${marks})`,
      some,
    ),
  );
  return new Set(found.map(({ key }) => key));
}

/** The cells of every record of a sheet, a page after a record. */
export const cellsAfter = (
  db: Database,
  sheetId: number,
  after: number,
  most: number,
): Promise<{ id: number; cells: string }[]> =>
  rows(db, 'SELECT id, cells FROM records WHERE sheet_id = ? AND id > ? ORDER BY id LIMIT ?', [
    sheetId,
    after,
    most,
  ]);

/** What is here by a name: of the tables that parts and what they name are kept in. */
export const namedIn = (
  db: Database,
  table:
    | 'groups'
    | 'boards'
    | 'sheets'
    | 'senders'
    | 'sources'
    | 'hooks_in'
    | 'hooks_out'
    | 'stations'
    | 'series'
    | 'calendar_sessions',
): Promise<{ id: number; name: string }[]> =>
  rows(
    db,
    table === 'calendar_sessions'
      ? // Several may be called the same: none of those is meant for sure.
        'SELECT MIN(id) AS id, title AS name FROM calendar_sessions WHERE called_off_at IS NULL GROUP BY title HAVING COUNT(*) = 1'
      : `SELECT id, name FROM \`${table}\``,
  );
