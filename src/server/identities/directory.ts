import { foldHandle } from '../../core/directory/identity.ts';
import type { Database } from '../database/connection.ts';
import { peopleCalled } from '../groups/memberStore.ts';
import { peopleByIdentities } from './store.ts';

/** Who is meant, or why nobody was found: `several` where it is the name of more than one. */
export type Found = { personId: number } | { reason: string };

/**
 * Finds whom values of outside records mean, each in its place. In a named system by the handle as it is matched
 * (`foldHandle`); otherwise by mail address or, where exactly one person is called so, by the whole name. Nothing is guessed.
 *
 * @param system the system of all of them; empty for mail addresses and names
 */
export async function findPeople(db: Database, system: string, values: readonly string[]): Promise<Found[]> {
  const texts = values.map((value) => value.trim());
  const asked = [...new Set(texts.filter((text) => text !== ''))];
  const called = system === '' ? await peopleCalled(db, asked) : new Map<string, number[]>();
  const handles = asked.filter((text) => (called.get(text) ?? []).length === 0);
  const held = await peopleByIdentities(db, system === '' ? 'mail' : system, handles.map(foldHandle));
  return texts.map((text): Found => {
    if (text === '') return { reason: 'The column that names who is told is empty.' };
    const ids = called.get(text) ?? [];
    const [only] = ids;
    if (only !== undefined && ids.length === 1) return { personId: only };
    if (ids.length > 1) return { reason: `${ids.length} people are called “${text}”.` };
    const personId = held.get(foldHandle(text));
    if (personId !== undefined) return { personId };
    return {
      reason:
        system === '' ? `Nobody has the address or the name “${text}”.` : `Nobody is “${text}” in ${system}.`,
    };
  });
}

/** As `findPeople`, for one value. */
export async function findPerson(db: Database, system: string, value: string): Promise<Found> {
  const [found] = await findPeople(db, system, [value]);
  return found ?? { reason: `Nobody is “${value}”.` };
}
