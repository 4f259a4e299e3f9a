import { foldHandle } from '../../core/directory/identity.ts';
import type { Database } from '../database/connection.ts';
import { peopleCalled } from '../groups/memberStore.ts';
import { personByIdentity } from './store.ts';

/** Who is meant, or why nobody was found: `several` where it is the name of more than one. */
export type Found = { personId: number } | { reason: string };

/**
 * Finds whom a value of an outside record means. In a named system by the handle as it is matched (`foldHandle`); otherwise
 * by mail address or, where exactly one person is called so, by the whole name. Nothing is guessed.
 */
export async function findPerson(db: Database, system: string, value: string): Promise<Found> {
  const text = value.trim();
  if (text === '') return { reason: 'The column that names who is told is empty.' };
  if (system !== '') {
    const personId = await personByIdentity(db, system, foldHandle(text));
    return personId === null ? { reason: `Nobody is “${text}” in ${system}.` } : { personId };
  }
  const ids = (await peopleCalled(db, [text])).get(text) ?? [];
  const [only] = ids;
  if (only !== undefined && ids.length === 1) return { personId: only };
  if (ids.length > 1) return { reason: `${ids.length} people are called “${text}”.` };
  const personId = await personByIdentity(db, 'mail', foldHandle(text));
  return personId === null ? { reason: `Nobody has the address or the name “${text}”.` } : { personId };
}
