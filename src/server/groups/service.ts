import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Group } from '../../core/audience/groups.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { asks } from '../asks/store.ts';
import { record } from '../audit/store.ts';
import { countReach } from '../audience/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { requireOfTheOrganisation } from '../people/guests.ts';
import { kindsOfPeople, peopleNamed, toldApart, personById, stations } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { recentAudiences } from '../saved-audiences/recent.ts';
import { seenSaved } from '../saved-audiences/service.ts';
import { audienceContext } from './directory.ts';
import { dateName } from '../calendar/naming.ts';
import { namedDates } from '../calendar/store.ts';
import { isSeen } from './seeing.ts';
import { setOwner } from './ownerStore.ts';
import { allGroups, lockGroup, setCallable, setNeedsClearance } from './store.ts';

/** The groups this person may write to or call on, and those of them that are archived and offered no more. */
async function groupsOf(db: Database, actor: Actor): Promise<{ offered: Group[]; archived: Group[] }> {
  const mine = (await allGroups(db)).filter((group) => isSeen(actor, group.id));
  return {
    offered: mine.filter((group) => !group.archived),
    archived: mine.filter((group) => group.archived),
  };
}

/** What this person may build an audience from: all groups for a coordinator, those in reach for an editor. */
export async function audienceChoices(db: Database, actor: Actor): Promise<AudienceChoices> {
  const looksAfter = decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';
  const [{ offered: groups, archived }, places, kinds, asked, saved, recent, sessions] = await Promise.all([
    groupsOf(db, actor),
    stations(db),
    kindsOfPeople(db),
    asks(db, actor.role === 'coordinator' ? null : actor.id, 40),
    seenSaved(db, actor),
    recentAudiences(db, actor),
    looksAfter ? namedDates(db, null) : [],
  ]);
  return {
    groups: groups.map(({ id, name, kind, needsClearance }) => ({ id, name, kind, needsClearance })),
    archived: archived.map(({ id, name }) => ({ id, name })),
    anybody:
      decide(actor, { kind: 'address', audience: { kind: 'everyone' }, boards: [] }).outcome === 'allowed',
    stations: [...places],
    ...kinds,
    asks: asked.map(({ occurrenceId, title, dueMs }) => ({ occurrenceId, title, dueMs })),
    sessions: sessions.map((date) => ({ dateId: date.id, words: dateName(date) })),
    saved: saved.map(({ id, name, audience }) => ({ id, name, audience })),
    recent,
  };
}

/** Somebody or some group that can be called by name. */
export interface Callable {
  kind: 'person' | 'group';
  id: number;
  name: string;
  /** Where a person is, or how many a group calls. */
  detail: string;
}

/** People and groups whose name holds some letters. */
export async function findByName(db: Database, actor: Actor, letters: string): Promise<Callable[]> {
  requireDesk(actor);
  const text = letters.trim();
  const [people, { offered: groups }, now] = await Promise.all([
    peopleNamed(db, text, 8),
    groupsOf(db, actor),
    audienceContext(db),
  ]);
  const named = groups.filter((group) => group.name.toLowerCase().includes(text.toLowerCase())).slice(0, 4);
  const counted = await Promise.all(
    named.map(async (group) => ({
      group,
      n: (await countReach(db, { kind: 'group', id: group.id }, now)).people,
    })),
  );
  return [
    ...counted.map(({ group, n }): Callable => ({
      kind: 'group',
      id: group.id,
      name: group.name,
      detail: `calls ${n.toLocaleString('en-GB')}`,
    })),
    ...people.map((person): Callable => ({
      kind: 'person',
      id: person.id,
      name: person.name,
      detail: toldApart(person, people),
    })),
  ];
}

/** Sets whether what goes to a group must be cleared by a second person first. */
export async function requireClearance(
  db: Database,
  actor: Actor,
  groupId: number,
  needed: boolean,
): Promise<void> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    if (!(await setNeedsClearance(trx, groupId, needed))) throw notFound('group');
    await record(trx, {
      actorId: actor.id,
      action: needed ? 'ask for clearance' : 'ask for no clearance',
      subject: 'group',
      subjectId: groupId,
    });
  });
}

/** Sets whether a group may be called on by whoever is on a board with those in it; otherwise by those who may send to it. */
export async function chooseCalling(
  db: Database,
  actor: Actor,
  groupId: number,
  callable: boolean,
): Promise<void> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    if (!(await setCallable(trx, groupId, callable))) throw notFound('group');
    await record(trx, {
      actorId: actor.id,
      action: callable ? 'let all call' : 'let few call',
      subject: 'group',
      subjectId: groupId,
    });
  });
}

/**
 * Makes somebody look after a group, or no longer: whoever does sees the rolls of its people, and is told who is missing. A group may
 * have any number of them.
 */
export async function appointOwner(
  db: Database,
  actor: Actor,
  groupId: number,
  personId: number,
  looksAfter: boolean,
): Promise<void> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const person = await personById(db, personId);
  if (looksAfter && (!person || person.standing === 'left'))
    throw new Problem(422, 'There is no such person here.', {
      errors: [{ field: 'personId', detail: 'There is no such person here. Choose one from the list.' }],
    });
  if (looksAfter && person) requireOfTheOrganisation(person);
  await transact(db, async (trx) => {
    if ((await lockGroup(trx, groupId)) === undefined) throw notFound('group');
    if (!(await setOwner(trx, groupId, personId, looksAfter))) return;
    await record(trx, {
      actorId: actor.id,
      action: looksAfter ? 'appoint owner' : 'release owner',
      subject: 'group',
      subjectId: groupId,
      detail: { person: personId },
    });
    await emit(trx, 'group.changed', { group: groupId });
  });
}
