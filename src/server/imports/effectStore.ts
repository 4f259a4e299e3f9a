import type { Change } from '../../core/imports/comparing.ts';
import { rows, type Database } from '../database/connection.ts';
import { inParts } from '../people/manyStore.ts';

export interface Effect {
  personId: number;
  kind: 'added' | 'changed' | 'returned' | 'left';
  changes: Change[];
}

export async function insertEffects(
  db: Database,
  importId: number,
  effects: readonly Effect[],
): Promise<void> {
  await inParts(effects, async (some) => {
    await db('import_effects').insert(
      some.map((each) => ({
        import_id: importId,
        person_id: each.personId,
        kind: each.kind,
        changes: JSON.stringify(each.changes),
      })),
    );
  });
}

export async function effectsOf(db: Database, importId: number): Promise<Effect[]> {
  const found = await rows<Omit<Effect, 'changes'> & { changes: string }>(
    db,
    'SELECT person_id AS personId, kind, changes FROM import_effects WHERE import_id = ? ORDER BY person_id',
    [importId],
  );
  return found.map((row) => ({ ...row, changes: JSON.parse(row.changes) as Change[] }));
}
