import { z } from 'zod';
import { audienceSchema } from '../../core/audience/expression.ts';
import { isBlank } from '../../core/content/document.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { requireSeen, unseenIn } from '../audience/naming.ts';
import { record } from '../audit/store.ts';
import { type Database, isDuplicate, transact } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { deleteSavedAudience, insertSavedAudience, savedAudiences, type SavedAudience } from './store.ts';

export const saveAudienceSchema = z.object({
  name: z
    .string()
    .trim()
    .max(120, 'A name has at most 120 characters')
    .refine((name) => !isBlank(name), 'Give the audience a name'),
  audience: audienceSchema,
});

/** The audiences kept under a name that name nothing this person may not see. */
export async function seenSaved(db: Database, actor: Actor): Promise<SavedAudience[]> {
  const all = await savedAudiences(db);
  const unseen = await Promise.all(all.map(({ audience }) => unseenIn(db, actor, [audience])));
  return all.filter((_, i) => unseen[i]?.reason === null);
}

/** The audiences kept under a name, for whoever works at the desk. */
export async function listSavedAudiences(db: Database, actor: Actor): Promise<SavedAudience[]> {
  requireDesk(actor);
  return seenSaved(db, actor);
}

export async function saveAudience(
  db: Database,
  actor: Actor,
  { name, audience }: z.infer<typeof saveAudienceSchema>,
): Promise<SavedAudience[]> {
  requireDesk(actor);
  await requireSeen(db, actor, audience);
  await transact(db, async (trx) => {
    try {
      const id = await insertSavedAudience(trx, name, audience, actor.id);
      await record(trx, { actorId: actor.id, action: 'save', subject: 'audience', subjectId: id });
    } catch (error) {
      if (isDuplicate(error))
        throw new Problem(422, 'An audience has this name already.', {
          errors: [{ field: 'name', detail: 'An audience has this name already. Choose another.' }],
        });
      throw error;
    }
  });
  return seenSaved(db, actor);
}

/** Forgets a saved audience; plans made with it keep what it said. For its author and coordinators. */
export async function forgetAudience(db: Database, actor: Actor, id: number): Promise<void> {
  requireDesk(actor);
  const found = (await savedAudiences(db)).find((each) => each.id === id);
  if (!found || (actor.role !== 'coordinator' && found.savedBy !== actor.id)) throw notFound('audience');
  await transact(db, async (trx) => {
    if (await deleteSavedAudience(trx, id))
      await record(trx, { actorId: actor.id, action: 'forget', subject: 'audience', subjectId: id });
  });
}
