import type { AtDesk } from '../../core/desk/sharing.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { mayClear, openAnnouncement } from '../announcements/service.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { addReader, noteClosed, noteOpen, peopleAtDesk, readersOfDraft, removeReader } from './store.ts';

/** Most people at the desk among whom one is asked to clear. */
const MOST_ASKED = 100;

/** Says that this person has a draft open; gives the names of the others who have. Said again every half minute. */
export async function sayOpen(db: Database, actor: Actor, id: number): Promise<{ others: string[] }> {
  await openAnnouncement(db, actor, id);
  return { others: (await noteOpen(db, id, actor.id)).map((person) => person.name) };
}

/** Says that this person has closed a draft. */
export async function sayClosed(db: Database, actor: Actor, id: number): Promise<void> {
  await openAnnouncement(db, actor, id);
  await noteClosed(db, id, actor.id);
}

/** With whom a draft is shared for comments, by name. */
export async function sharing(db: Database, actor: Actor, id: number): Promise<AtDesk[]> {
  await openAnnouncement(db, actor, id);
  return readersOfDraft(db, id);
}

/** Who else may be asked to clear a draft as it is planned now, by name. */
export async function reviewers(db: Database, actor: Actor, id: number): Promise<AtDesk[]> {
  const draft = await openAnnouncement(db, actor, id);
  const atDesk = await peopleAtDesk(db, MOST_ASKED);
  const able = await Promise.all(
    atDesk.map(async (person) => {
      const theirs = person.id === actor.id ? undefined : await actorOf(db, person.id);
      return theirs && (await mayClear(db, theirs, draft)).outcome === 'allowed' ? [person] : [];
    }),
  );
  return able.flat();
}

/**
 * Shares a draft with somebody at the desk, who may then open it and comment on it, or does so no longer.
 *
 * @throws 422 where they do not work at the desk
 */
export async function share(
  db: Database,
  actor: Actor,
  id: number,
  { personId, shared }: { personId: number; shared: boolean },
): Promise<AtDesk[]> {
  const draft = await openAnnouncement(db, actor, id);
  if (draft.state === 'committed') throw new Problem(409, 'It has gone already, and is no draft any more.');
  const other = await actorOf(db, personId);
  if (shared && (!other || other.role === 'member'))
    throw new Problem(422, 'They do not work at the desk, so they cannot open a draft.', {
      errors: [{ field: 'personId', detail: 'Choose a coordinator or an editor.' }],
    });
  await transact(db, async (trx) => {
    const changed = shared
      ? await addReader(trx, id, personId, actor.id)
      : (await removeReader(trx, id, personId)) > 0;
    if (!changed) return;
    await record(trx, {
      actorId: actor.id,
      action: shared ? 'share for comments' : 'share no longer',
      subject: 'announcement',
      subjectId: id,
      detail: { person: personId },
    });
    await emit(trx, 'draft.shared', { announcement: id, person: personId, by: actor.id, shared });
  });
  return readersOfDraft(db, id);
}
