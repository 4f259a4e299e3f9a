import { audienceSchema, type Audience } from '../../core/audience/expression.ts';
import { change, rows, type Database } from '../database/connection.ts';

export interface SavedAudience {
  id: number;
  name: string;
  audience: Audience;
  savedBy: number;
}

export async function savedAudiences(db: Database): Promise<SavedAudience[]> {
  const found = await rows<{ id: number; name: string; expression: string; savedBy: number }>(
    db,
    'SELECT id, name, expression, saved_by AS savedBy FROM saved_audiences ORDER BY name',
  );
  // One that cannot be read any more does not take the others along.
  return found.flatMap(({ expression, ...row }) => {
    try {
      return [{ ...row, audience: audienceSchema.parse(JSON.parse(expression)) }];
    } catch {
      return [];
    }
  });
}

/** @throws the database's duplicate-key error where an audience has this name */
export async function insertSavedAudience(
  db: Database,
  name: string,
  audience: Audience,
  by: number,
): Promise<number> {
  const [id] = await db('saved_audiences').insert({
    name,
    expression: JSON.stringify(audience),
    saved_by: by,
  });
  return id ?? 0;
}

export async function deleteSavedAudience(db: Database, id: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM saved_audiences WHERE id = ?', [id])) > 0;
}

/** The plans of what somebody sent, as they are stored, the latest first. */
export async function latestPlans(db: Database, personId: number, most: number): Promise<string[]> {
  const found = await rows<{ plan: string }>(
    db,
    "SELECT plan FROM sends WHERE created_by = ? AND kind = 'send' AND NOT to_one ORDER BY id DESC LIMIT ?",
    [personId, most],
  );
  return found.map((row) => row.plan);
}
