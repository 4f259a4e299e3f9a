import type { Begun } from '../../core/first-steps/steps.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** How much there is of what first steps lead to. */
export async function begun(db: Database): Promise<Begun> {
  const [row] = await rows<Begun>(
    db,
    `SELECT (SELECT COUNT(*) FROM people WHERE linked_to IS NULL AND standing <> 'left') AS people,
       (SELECT COUNT(*) FROM people WHERE linked_to IS NULL AND standing <> 'left' AND first_in_at IS NOT NULL)
         + (SELECT COUNT(*) FROM access_letters WHERE kind = 'invitation') - 1 AS invited,
       (SELECT COUNT(*) FROM \`groups\`) AS \`groups\`, (SELECT COUNT(*) FROM boards) AS boards,
       (SELECT COUNT(*) FROM sends) AS sends`,
  );
  return row ?? { people: 0, invited: 0, groups: 0, boards: 0, sends: 0 };
}

export async function stepsLeft(db: Database, lock = false): Promise<string[]> {
  const [row] = await rows<{ left: string }>(
    db,
    `SELECT steps_left AS \`left\` FROM organisation WHERE id = 1${lock ? ' FOR UPDATE' : ''}`,
  );
  return JSON.parse(row?.left ?? '[]') as string[];
}

export async function setStepsLeft(db: Database, left: readonly string[]): Promise<void> {
  await change(db, 'UPDATE organisation SET steps_left = ? WHERE id = 1', [JSON.stringify(left)]);
}

export async function changeOrganisation(db: Database, name: string, zone: string): Promise<void> {
  await change(db, 'UPDATE organisation SET name = ?, zone = ? WHERE id = 1', [name, zone]);
}
