import { change, rows, type Database } from '../database/connection.ts';

/** Who may change an automation beside its owner and coordinators, by name. */
export const peopleOfAutomation = (db: Database, id: number): Promise<{ id: number; name: string }[]> =>
  rows(
    db,
    `SELECT p.id, p.shown_name AS name FROM automation_people n JOIN people p ON p.id = n.person_id
     WHERE n.automation_id = ? ORDER BY p.shown_name, p.id`,
    [id],
  );

/** The automations that somebody may change without looking after them. */
export async function automationsNaming(db: Database, personId: number): Promise<Set<number>> {
  const found = await rows<{ id: number }>(
    db,
    'SELECT automation_id AS id FROM automation_people WHERE person_id = ?',
    [personId],
  );
  return new Set(found.map(({ id }) => id));
}

export async function savePeopleOfAutomation(
  db: Database,
  id: number,
  people: readonly number[],
): Promise<void> {
  await change(db, 'DELETE FROM automation_people WHERE automation_id = ?', [id]);
  for (const person of people)
    await change(db, 'INSERT INTO automation_people (automation_id, person_id) VALUES (?, ?)', [id, person]);
}
