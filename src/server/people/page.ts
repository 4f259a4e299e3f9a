import { deedWords } from '../../core/audit/deeds.ts';
import { audienceWords } from '../../core/audience/words.ts';
import { isReadable, type Group } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { MembershipLine, PersonPage } from '../../core/people/page.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { namesOfSubjects, trailOfPerson } from '../audit/trailStore.ts';
import { isIn } from '../audience/store.ts';
import { accessOf } from '../access/store.ts';
import { countSessions } from '../accounts/store.ts';
import { standingOf } from '../second-factor/store.ts';
import { allBoards, boardsModeratedBy } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { whichHold } from '../groups/memberStore.ts';
import { groupsReachedBy } from '../groups/store.ts';
import { notFound, Problem } from '../problem.ts';
import { leaveOf } from './leaveStore.ts';
import { signOnsOf } from '../sign-on/store.ts';
import { attributesOf, hasNoPage, personById } from './store.ts';
import { absencesOf } from './workingStore.ts';

const MOST_DEEDS = 40;

/** All that is known of somebody, for those who look after people. A 404 problem for linked contacts. */
export async function personForDesk(db: Database, actor: Actor, id: number): Promise<PersonPage> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const person = await personById(db, id);
  if (!person || (await hasNoPage(db, id))) throw notFound('person');
  const now = await audienceContext(db);
  const [
    attributes,
    groups,
    moderated,
    boards,
    reach,
    access,
    sessions,
    absences,
    deeds,
    standing,
    signOns,
    leave,
  ] = await Promise.all([
    attributesOf(db, id),
    membershipsOf(db, id, now),
    boardsModeratedBy(db, id),
    allBoards(db),
    groupsReachedBy(db, id),
    accessOf(db, [id]),
    countSessions(db, id),
    absencesOf(db, id),
    trailOfPerson(db, id, MOST_DEEDS),
    standingOf(db, id),
    signOnsOf(db, id),
    leaveOf(db, id),
  ]);
  const named = (group: Group | undefined): { id: number; name: string }[] =>
    group ? [{ id: group.id, name: group.name }] : [];
  const names = await namesOfSubjects(db, deeds);
  return {
    person,
    attributes,
    groups,
    owns: [...now.groups.values()].filter((group) => group.ownerIds.includes(id)).flatMap(named),
    moderates: boards
      .filter((board) => moderated.includes(board.id))
      .map(({ id: of, name }) => ({ id: of, name })),
    reach: person.role === 'editor' ? reach.flatMap((group) => named(now.groups.get(group))) : [],
    access: access.get(id) ?? { state: 'not invited' },
    sessions,
    leave,
    signOns,
    secondStep: standing?.second ?? false,
    absences,
    history: deeds.map((deed) => ({
      atMs: deed.atMs,
      by: deed.actor ?? (deed.actorId === null ? null : 'somebody who is gone'),
      words: deedWords({ ...deed, name: names.get(`${deed.subject} ${deed.subjectId}`) ?? null }),
    })),
  };
}

/** The groups somebody is in, each with why. */
async function membershipsOf(db: Database, id: number, now: AudienceContext): Promise<MembershipLine[]> {
  const groups = [...now.groups.values()].filter((group) => isReadable({ kind: 'group', id: group.id }, now));
  if (groups.length === 0) return [];
  const conditions = groups.map((group) => isIn({ kind: 'group', id: group.id }, now));
  const holds = await whichHold(db, id, conditions);
  const mine = groups.filter((_, at) => holds[at]);
  const rules = mine.map((group) => (group.kind === 'live' ? group.rule : null));
  const names = await audienceNames(db, now, rules);
  return mine.map((group, at) => {
    const rule = rules[at];
    return {
      id: group.id,
      name: group.name,
      why: rule ? `by its rule: ${audienceWords(rule, names)}` : 'picked by hand',
    };
  });
}
