import type { z } from 'zod';
import type { BroughtIdentities, bringIdentitiesSchema, LeftOutLine } from '../../core/directory/bringing.ts';
import { foldHandle, identitySchema } from '../../core/directory/identity.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { peopleCalled } from '../groups/memberStore.ts';
import { Problem } from '../problem.ts';
import { holdersOf, insertIdentity, lackingIn } from './store.ts';

type List = z.infer<typeof bringIdentitiesSchema>;
interface New {
  personId: number;
  value: string;
  folded: string;
}

const MOST_TOLD = 200;

/** What of a list is new, and why the rest of it is not brought in. Nobody is guessed, and nothing is taken from anybody. */
async function sorted(
  db: Database,
  { system, rows }: Pick<List, 'system' | 'rows'>,
): Promise<{ made: New[]; there: number; leftOut: LeftOutLine[] }> {
  const [called, holders] = await Promise.all([
    peopleCalled(db, [...new Set(rows.map(({ who }) => who.trim()).filter(Boolean))]),
    holdersOf(db, system, [...new Set(rows.map(({ value }) => foldHandle(value)).filter(Boolean))]),
  ]);
  const made = new Map<string, New & { line: number }>();
  const leftOut: LeftOutLine[] = [];
  let there = 0;
  for (const row of rows) {
    const leave = (why: string): void => void leftOut.push({ ...row, why });
    const [who, value] = [row.who.trim(), identitySchema.shape.value.safeParse(row.value)];
    const folded = foldHandle(row.value);
    if (who === '') leave('It does not say who that is.');
    else if (!value.success || folded === '') leave(value.error?.issues[0]?.message ?? 'It says nothing.');
    else {
      const [personId, another] = called.get(who) ?? [];
      const holder = holders.get(folded);
      const before = made.get(folded);
      if (personId === undefined) leave('Nobody has this address or name.');
      else if (another !== undefined) leave('Several people are called so. Write a mail address.');
      else if (holder?.personId === personId || before?.personId === personId) there++;
      else if (holder) leave(`That is ${holder.name} already.`);
      else if (before) leave(`Line ${before.line} says that this is somebody else.`);
      else made.set(folded, { personId, value: value.data, folded, line: row.line });
    }
  }
  return { made: [...made.values()], there, leftOut };
}

/**
 * Notes what many people are called in a system, from a list: those who are found and whose handle is nobody’s yet; the others are
 * told, each with why. Looked at first, without keeping anything, where `keep` is false.
 *
 * @throws 409 where somebody was given one of the handles in this very moment; nothing is kept then
 */
export async function bringIdentities(
  db: Database,
  actor: Actor,
  { system, rows, keep }: List,
): Promise<BroughtIdentities> {
  requireLookingAfterPeople(actor);
  const summary = ({ made, there, leftOut }: Awaited<ReturnType<typeof sorted>>): BroughtIdentities => ({
    made: made.length,
    there,
    leftOut: leftOut.length,
    told: leftOut.slice(0, MOST_TOLD),
  });
  if (!keep) return summary(await sorted(db, { system, rows }));
  try {
    return await transact(db, async (trx) => {
      const found = await sorted(trx, { system, rows });
      for (const { personId, value, folded } of found.made)
        await insertIdentity(trx, { personId, system, value, folded });
      for (const personId of new Set(found.made.map((each) => each.personId)))
        await emit(trx, 'person.changed', { person: personId });
      if (found.made.length > 0)
        await record(trx, {
          actorId: actor.id,
          action: 'bring in identities',
          subject: 'organisation',
          subjectId: 1,
          detail: { system, identities: found.made.length },
        });
      return summary(found);
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw new Problem(
      409,
      'Somebody was given one of these names in this moment. Nothing was kept: look at the list again.',
    );
  }
}

const PAGE = 50;

/** Who has no identity in a system, by name: a page of them, and how many there are. */
export async function peopleLacking(
  db: Database,
  actor: Actor,
  system: string,
  from: number,
): Promise<{ total: number; people: { id: number; name: string; station: string | null }[] }> {
  requireLookingAfterPeople(actor);
  return lackingIn(db, system, from, PAGE);
}
