import { dateWords } from '../../core/timing/words.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import type { Person } from '../../core/people/person.ts';
import { boardsModeratedBy } from '../boards/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { ownsGroup } from '../groups/ownerStore.ts';
import { Problem } from '../problem.ts';
import { guestsPast, zonesOfGuests } from './guestStore.ts';
import { moveStanding } from './standing.ts';

/** A 422 problem where somebody cannot be a guest until a date: it is past on their clock, or they have a role. */
export async function requireGuest(
  db: Database,
  { guestUntil, role, zone }: Pick<Person, 'guestUntil' | 'role' | 'zone'>,
  day: 'from today' | 'any day' = 'from today',
): Promise<void> {
  if (guestUntil === null) return;
  if (role !== 'member') {
    const detail = `A guest is a member and nothing more. Make them no ${role}, or no guest.`;
    throw new Problem(422, detail, { errors: [{ field: 'role', detail }] });
  }
  if (day === 'from today' && guestUntil < dateAt(await databaseNow(db), zone)) {
    const detail = 'That day is past where they are. Choose today or a later day.';
    throw new Problem(422, detail, { errors: [{ field: 'guestUntil', detail }] });
  }
}

/** A 422 problem where a guest is to look after something: it is for those of the organisation. */
export function requireOfTheOrganisation({ name, guestUntil }: Pick<Person, 'name' | 'guestUntil'>): void {
  if (guestUntil === null) return;
  const detail = `${name} is a guest, and looks after nothing here. Choose somebody of the organisation.`;
  throw new Problem(422, detail, { errors: [{ field: 'personId', detail }] });
}

/** A 422 problem where somebody is to become a guest who looks after boards or groups. */
export async function requireNoCare(db: Database, id: number): Promise<void> {
  const [boards, owns] = await Promise.all([boardsModeratedBy(db, id), ownsGroup(db, id)]);
  if (boards.length === 0 && !owns) return;
  const detail = 'They look after boards or groups. Give these to somebody of the organisation first.';
  throw new Problem(422, detail, { errors: [{ field: 'guestUntil', detail }] });
}

/** A 409 problem where the time of a guest is over, so that they would be out again at once. */
export async function requireTimeLeft(db: Database, person: Person): Promise<void> {
  const { guestUntil, name, zone } = person;
  const nowMs = await databaseNow(db);
  if (guestUntil !== null && guestUntil < dateAt(nowMs, zone))
    throw new Problem(
      409,
      `${name} was a guest until ${dateWords(Date.parse(`${guestUntil}T12:00:00Z`), 'UTC', nowMs)}. Choose a later day first.`,
    );
}

/** Marks as left every guest whose last day is over, each by their own clock. */
export async function endGuests(db: Database): Promise<void> {
  const [zones, nowMs] = await Promise.all([zonesOfGuests(db), databaseNow(db)]);
  for (const zone of zones)
    await transact(db, async (trx) => {
      for (const { id, until } of await guestsPast(trx, zone, dateAt(nowMs, zone)))
        await moveStanding(trx, id, true, { actorId: null, detail: { guestUntil: until } });
    });
}
