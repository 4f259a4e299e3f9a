import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** What is looked for in the audit trail; what is null or empty is not asked. */
export interface TrailQuery {
  /** Letters of the name of who did it or of whom it was done to. */
  search: string;
  subject: string | null;
  /** Instants in milliseconds since 1970; `toMs` itself is out. */
  fromMs: number | null;
  toMs: number | null;
}

export interface TrailRow {
  id: number;
  atMs: number;
  actorId: number | null;
  /** Whose deed it is by name; with no id, that of a system that keeps people up to date. */
  actor: string | null;
  action: string;
  subject: string;
  subjectId: number | null;
  /** The program that did it for them; null where they did it by hand. */
  program: string | null;
}

/** Who did it: somebody, or the system that keeps people up to date. */
const ACTOR = "COALESCE(p.name, IF(a.actor_id IS NULL, JSON_VALUE(a.detail, '$.by'), NULL))";

/** A page of the audit trail, the latest first. */
export function trailPage(
  db: Database,
  { search, subject, fromMs, toMs }: TrailQuery,
  before: number | null,
  most: number,
): Promise<TrailRow[]> {
  const like = `%${search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
  const instant = "TIMESTAMPADD(MICROSECOND, ? * 1000, '1970-01-01')";
  const parts: [string, (string | number)[]][] = [
    ...(before === null ? [] : ([['a.id < ?', [before]]] as [string, number[]][])),
    ...(subject === null ? [] : ([['a.subject = ?', [subject]]] as [string, string[]][])),
    ...(fromMs === null ? [] : ([[`a.at >= ${instant}`, [fromMs]]] as [string, number[]][])),
    ...(toMs === null ? [] : ([[`a.at < ${instant}`, [toMs]]] as [string, number[]][])),
    ...(search === ''
      ? []
      : ([
          [
            `(a.actor_id IN (SELECT id FROM people WHERE name LIKE ?)
              OR (a.subject = 'person' AND a.subject_id IN (SELECT id FROM people WHERE name LIKE ?)))`,
            [like, like],
          ],
        ] as [string, string[]][])),
  ];
  return rows(
    db,
    `SELECT a.id, ${ms('a.at')} AS atMs, a.actor_id AS actorId, ${ACTOR} AS actor, a.action, a.subject, a.subject_id AS subjectId,
       JSON_VALUE(a.detail, '$.program') AS program
     FROM audit a LEFT JOIN people p ON p.id = a.actor_id
     ${parts.length === 0 ? '' : `WHERE ${parts.map(([sql]) => sql).join(' AND ')}`} ORDER BY a.id DESC LIMIT ?`,
    [...parts.flatMap(([, bindings]) => bindings), most],
  );
}

/** What was done with somebody, or by them with their own account, the latest first. */
export function trailOfPerson(db: Database, personId: number, most: number): Promise<TrailRow[]> {
  return rows(
    db,
    `SELECT a.id, ${ms('a.at')} AS atMs, a.actor_id AS actorId, ${ACTOR} AS actor, a.action, a.subject, a.subject_id AS subjectId,
       JSON_VALUE(a.detail, '$.program') AS program
     FROM audit a LEFT JOIN people p ON p.id = a.actor_id
     WHERE a.subject = 'person' AND a.subject_id = ? ORDER BY a.id DESC LIMIT ?`,
    [personId, most],
  );
}

/** The names of what deeds were about, as SELECTs of an id and a name for some ids. */
const NAMES: Record<string, string> = {
  person: 'SELECT id, name FROM people WHERE id IN (?)',
  group: 'SELECT id, name FROM `groups` WHERE id IN (?)',
  station: 'SELECT id, name FROM stations WHERE id IN (?)',
  session: 'SELECT id, title AS name FROM calendar_sessions WHERE id IN (?)',
  'followed calendar': 'SELECT id, name FROM followed_calendars WHERE id IN (?)',
  board: 'SELECT id, name FROM boards WHERE id IN (?)',
  announcement: "SELECT id, JSON_VALUE(content, '$.title') AS name FROM announcements WHERE id IN (?)",
  send: `SELECT s.id, v.title AS name FROM sends s JOIN announcement_versions v ON v.id = s.version_id WHERE s.id IN (?)`,
  occurrence: `SELECT o.id, v.title AS name FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id IN (?)`,
  series: 'SELECT id, name FROM series WHERE id IN (?)',
  audience: 'SELECT id, name FROM saved_audiences WHERE id IN (?)',
  ribbon: 'SELECT id, name FROM ribbons WHERE id IN (?)',
  import: 'SELECT id, file_name AS name FROM imports WHERE id IN (?)',
  automation: "SELECT id, JSON_VALUE(draft, '$.name') AS name FROM automations WHERE id IN (?)",
  'record sheet': 'SELECT id, name FROM sheets WHERE id IN (?)',
  pattern: 'SELECT id, name FROM patterns WHERE id IN (?)',
  'way in': 'SELECT id, name FROM hooks_in WHERE id IN (?)',
  'way out': 'SELECT id, name FROM hooks_out WHERE id IN (?)',
  source: 'SELECT id, name FROM sources WHERE id IN (?)',
  sender: 'SELECT id, name FROM senders WHERE id IN (?)',
};

/** The names of what some deeds were about, by subject and id; what is gone or has no name of its own has none. */
export async function namesOfSubjects(
  db: Database,
  found: readonly Pick<TrailRow, 'subject' | 'subjectId'>[],
): Promise<Map<string, string>> {
  const names = new Map<string, string>();
  for (const [subject, sql] of Object.entries(NAMES)) {
    const ids = [
      ...new Set(
        found.flatMap((row) => (row.subject === subject && row.subjectId !== null ? [row.subjectId] : [])),
      ),
    ];
    if (ids.length === 0) continue;
    const named = await rows<{ id: number; name: string }>(
      db,
      sql.replace('?', ids.map(() => '?').join(', ')),
      ids,
    );
    for (const { id, name } of named) names.set(`${subject} ${id}`, name);
  }
  return names;
}
