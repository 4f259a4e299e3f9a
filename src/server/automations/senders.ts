import { z } from 'zod';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { isDuplicate, type Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { insertSender } from './store.ts';

export const senderSchema = z.object({
  name: z.string().trim().min(1, 'Give the sender a name').max(80, 'A name has at most 80 characters'),
});

/** Makes a named sender. */
export async function makeSender(
  db: Database,
  actor: Actor,
  { name }: z.infer<typeof senderSchema>,
): Promise<{ id: number; name: string }> {
  requireDesk(actor);
  try {
    return { id: await insertSender(db, name), name };
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw new Problem(422, 'There is a sender of this name already.', {
      errors: [{ field: 'name', detail: 'There is a sender of this name already. Choose it from the list.' }],
    });
  }
}
