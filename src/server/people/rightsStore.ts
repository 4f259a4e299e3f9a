import type { Role } from '../../core/audience/expression.ts';
import type { RightsPage } from '../../core/rights/words.ts';
import { rows, type Database } from '../database/connection.ts';

/** Those who are here in a role, by name. */
export const peopleInRole = (db: Database, role: Role): Promise<{ id: number; name: string }[]> =>
  rows(
    db,
    "SELECT id, name FROM people WHERE role = ? AND standing <> 'left' AND linked_to IS NULL ORDER BY name, id",
    [role],
  );

/** The editors with the groups they may write to. */
export async function editorsWithReach(db: Database): Promise<RightsPage['editors']> {
  const [editors, reach] = await Promise.all([
    peopleInRole(db, 'editor'),
    rows<{ personId: number; id: number; name: string }>(
      db,
      'SELECT r.person_id AS personId, g.id, g.name FROM editor_reach r JOIN `groups` g ON g.id = r.group_id ORDER BY g.name',
    ),
  ]);
  return editors.map((editor) => ({
    ...editor,
    reach: reach.filter((each) => each.personId === editor.id).map(({ id, name }) => ({ id, name })),
  }));
}
