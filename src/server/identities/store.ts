import { change, rows, type Database } from '../database/connection.ts';

export interface IdentityRow {
  id: number;
  personId: number;
  name: string;
  system: string;
  value: string;
}

/** Whom handles in a system stand for, by the handle as it is matched; those of nobody who is here are not among them. */
export async function peopleByIdentities(
  db: Database,
  system: string,
  folded: readonly string[],
): Promise<Map<string, number>> {
  if (folded.length === 0) return new Map();
  const found = await rows<{ folded: string; personId: number }>(
    db,
    `SELECT i.folded, i.person_id AS personId FROM identities i JOIN people p ON p.id = i.person_id
     WHERE i.in_system = ? AND i.folded IN (${folded.map(() => '?').join(', ')}) AND p.standing <> 'left'`,
    [system, ...folded],
  );
  return new Map(found.map((row) => [row.folded, row.personId]));
}

/** Whom a handle in a system stands for, by the handle as it is matched. */
export async function personByIdentity(db: Database, system: string, folded: string): Promise<number | null> {
  return (await peopleByIdentities(db, system, [folded])).get(folded) ?? null;
}

export function identitiesOf(db: Database, personId: number): Promise<IdentityRow[]> {
  return rows(
    db,
    `SELECT i.id, i.person_id AS personId, p.name, i.in_system AS \`system\`, i.value FROM identities i
       JOIN people p ON p.id = i.person_id WHERE i.person_id = ? ORDER BY i.in_system, i.value`,
    [personId],
  );
}

/** The systems in which anybody has an identity, with how many have. */
export function identitySystems(db: Database): Promise<{ system: string; people: number }[]> {
  return rows(
    db,
    'SELECT in_system AS `system`, COUNT(DISTINCT person_id) AS people FROM identities GROUP BY in_system ORDER BY in_system',
  );
}

/** @throws the database's duplicate-key error where the handle is somebody's already */
export async function insertIdentity(
  db: Database,
  identity: { personId: number; system: string; value: string; folded: string },
): Promise<number> {
  const [id] = await db('identities').insert({
    person_id: identity.personId,
    in_system: identity.system,
    value: identity.value,
    folded: identity.folded,
  });
  return id ?? 0;
}

export const deleteIdentity = async (db: Database, personId: number, id: number): Promise<boolean> =>
  (await change(db, 'DELETE FROM identities WHERE id = ? AND person_id = ?', [id, personId])) === 1;

/** Handles that automations failed to find in the last weeks, and that are still nobody's, the latest first. */
export function notFoundLately(
  db: Database,
  weeks: number,
  most: number,
): Promise<{ system: string; value: string; times: number; runId: number; automation: string }[]> {
  return rows(
    db,
    `SELECT y.missing_system AS \`system\`, y.missing_value AS value, COUNT(*) AS times, MAX(y.run_id) AS runId,
       MAX(JSON_VALUE(a.draft, '$.name')) AS automation
     FROM automation_sayings y JOIN automation_runs r ON r.id = y.run_id JOIN automations a ON a.id = r.automation_id
     WHERE y.missing_system IS NOT NULL AND y.missing_value IS NOT NULL AND r.ended_at > NOW(3) - INTERVAL ? WEEK
       AND NOT EXISTS (SELECT 1 FROM identities i WHERE i.in_system = y.missing_system AND i.folded = LOWER(TRIM(y.missing_value)))
     GROUP BY y.missing_system, y.missing_value ORDER BY runId DESC LIMIT ?`,
    [weeks, most],
  );
}

/** Whose some handles in a system are, by the handle as it is matched; also of people who have left. */
export async function holdersOf(
  db: Database,
  system: string,
  folded: readonly string[],
): Promise<Map<string, { personId: number; name: string }>> {
  const found = new Map<string, { personId: number; name: string }>();
  for (let at = 0; at < folded.length; at += 1000) {
    const some = folded.slice(at, at + 1000);
    const part = await rows<{ folded: string; personId: number; name: string }>(
      db,
      `SELECT i.folded, i.person_id AS personId, p.shown_name AS name FROM identities i JOIN people p ON p.id = i.person_id
       WHERE i.in_system = ? AND i.folded IN (${some.map(() => '?').join(', ')})`,
      [system, ...some],
    );
    for (const { folded: handle, ...holder } of part) found.set(handle, holder);
  }
  return found;
}

const LACKING = `p.standing <> 'left' AND p.linked_to IS NULL
  AND NOT EXISTS (SELECT 1 FROM identities i WHERE i.person_id = p.id AND i.in_system = ?)`;

/** Who has no identity in a system, by name. */
export async function lackingIn(
  db: Database,
  system: string,
  from: number,
  most: number,
): Promise<{ total: number; people: { id: number; name: string; station: string | null }[] }> {
  const [counted] = await rows<{ n: number }>(db, `SELECT COUNT(*) AS n FROM people p WHERE ${LACKING}`, [
    system,
  ]);
  const people = await rows<{ id: number; name: string; station: string | null }>(
    db,
    `SELECT p.id, p.shown_name AS name, s.name AS station FROM people p LEFT JOIN stations s ON s.id = p.station_id
     WHERE ${LACKING} ORDER BY p.shown_name, p.id LIMIT ? OFFSET ?`,
    [system, most, from],
  );
  return { total: counted?.n ?? 0, people };
}
