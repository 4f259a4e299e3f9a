import { groupsNamedIn } from '../../core/audience/expression.ts';
import { statementOf, withoutNames, type Asking } from '../../core/asks/ask.ts';
import {
  byNeed,
  type AskListing,
  type GroupTally,
  type Roll,
  type RollListing,
  type RollPart,
} from '../../core/asks/roll.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { momentWords } from '../../core/timing/words.ts';
import { condition, type Sql } from '../audience/sql.ts';
import { countPeople, isIn } from '../audience/store.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { onceForAll } from '../database/onceForAll.ts';
import { audienceContext } from '../groups/directory.ts';
import { groupsOwnedBy } from '../groups/ownerStore.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { forgottenOf } from '../retention/keptStore.ts';
import { chasesOf } from '../sends/chaseStore.ts';
import { askedOccurrence, occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { answer } from './answering.ts';
import { askStates, closeAsk, openSecretPolls, type AskState } from './askStore.ts';
import {
  answerOf,
  asks,
  earlierCount,
  listDue,
  rollPage,
  tallies,
  talliesByStation,
  talliesWhere,
  tallyWhere,
  type RollRow,
} from './store.ts';

const PAGE = 100;
const NONE: Sql = { sql: 'FALSE', bindings: [] };

/** Those in any of some groups. */
async function anyOf(db: Database, groupIds: readonly number[]): Promise<Sql> {
  if (groupIds.length === 0) return NONE;
  const now = await audienceContext(db);
  return condition({ kind: 'any', of: groupIds.map((id) => ({ kind: 'group', id })) }, now);
}

/** Every ask this person may see, the latest first, with how full its roll is; a group's owner sees that of their groups. */
export async function listAsks(db: Database, actor: Actor): Promise<AskListing[]> {
  const owned = await groupsOwnedBy(db, actor.id);
  const desk = decide(actor, { kind: 'see the desk' });
  if (desk.outcome === 'denied' && owned.length === 0) throw new Problem(403, desk.reason);
  const all = actor.role === 'coordinator' ? null : actor.id;
  const own = desk.outcome === 'allowed' ? await asks(db, all, 200) : [];
  const counted = await tallies(
    db,
    own.map((ask) => ask.occurrenceId),
  );
  const mine = own.map((ask) => ({
    ...ask,
    tally: counted.get(ask.occurrenceId) ?? { asked: 0, answered: 0 },
  }));
  if (owned.length === 0 || all === null) return mine;
  const known = new Set(mine.map((ask) => ask.occurrenceId));
  const all200 = (await asks(db, null, 200)).filter((ask) => !known.has(ask.occurrenceId));
  // Of an open poll without names a part of the roll is told to nobody, so there is nothing for a group's owner to see.
  const secret = new Set(
    await openSecretPolls(
      db,
      all200.map((ask) => ask.occurrenceId),
    ),
  );
  const others = all200.filter((ask) => !secret.has(ask.occurrenceId));
  const theirs = await talliesWhere(
    db,
    others.map((ask) => ask.occurrenceId),
    await anyOf(
      db,
      owned.map((group) => group.id),
    ),
  );
  return [
    ...mine,
    ...others.flatMap((ask) => {
      const tally = theirs.get(ask.occurrenceId);
      return tally ? [{ ...ask, tally }] : [];
    }),
  ].sort((a, b) => b.dueMs - a.dueMs);
}

/** An ask opened by somebody, with whom of its roll they may see. */
export interface Opened {
  occurrence: Occurrence;
  ask: Asking;
  state: AskState;
  /** Null: everybody. */
  who: Sql | null;
  /** The groups whose owner looks; null where they see all. */
  owned: { id: number; name: string }[] | null;
}

/** An ask as a whole, for whoever may see all of it: that is for the caller to know. */
export async function wholeAsk(db: Database, occurrenceId: number): Promise<Opened> {
  const occurrence = await askedOccurrence(db, occurrenceId);
  const state = occurrence && (await askStates(db, [occurrence.id])).get(occurrence.id);
  if (!occurrence || !state || occurrence.asked.kind === 'nothing') throw notFound('ask');
  return { occurrence, ask: occurrence.asked, state, who: null, owned: null };
}

/** Opens an ask for its author, a coordinator, or the owner of a group that is asked; a 404 problem for anybody else. */
export async function openAsk(db: Database, actor: Actor, occurrenceId: number): Promise<Opened> {
  const base = await wholeAsk(db, occurrenceId);
  const { occurrence } = base;
  if (decide(actor, { kind: 'see send', authorId: occurrence.createdBy }).outcome === 'allowed') return base;
  const owned = await groupsOwnedBy(db, actor.id);
  // What a group's owner sees is a part of the roll, and of an open poll without names that is told to nobody.
  if (hidesNames(base)) throw notFound('ask');
  const who = await anyOf(
    db,
    owned.map((group) => group.id),
  );
  if (owned.length === 0 || (await tallyWhere(db, occurrence.id, who)).asked === 0) throw notFound('ask');
  return { ...base, who, owned };
}

function closedWords({ closedMs, closedWhy, closedBy }: AskState, zone: string): string | null {
  if (closedMs === null) return null;
  const at = momentWords(closedMs, zone);
  if (closedWhy === 'hand') return `Closed by ${closedBy ?? 'somebody'} at ${at}.`;
  return closedWhy === 'all' ? `Closed at ${at}, when all had voted.` : `Closed at ${at}, as planned.`;
}

const NAMES_HIDDEN =
  'This poll is without names. Who has voted, and how many in each part, is shown once it has closed, so that no vote can be told by watching.';

const forgottenWords = (ms: number, zone: string): string =>
  `Who answered was forgotten on ${momentWords(ms, zone)}, as was chosen for all answers. How many did is kept.`;

const hidesNames = ({ ask, state }: Pick<Opened, 'ask' | 'state'>): boolean =>
  withoutNames(ask) && state.closedMs === null;

// When somebody voted without their name would tell it from what had come before and after: it is told of nobody.
const timeless = (row: RollRow): RollRow => ({ ...row, answeredMs: null, openedMs: null, via: null });

/** Who is in the audience of an occurrence at this moment. */
async function audienceNow(db: Database, occurrence: Occurrence): Promise<Sql> {
  const { audience } = occurrence.plan;
  return audience ? isIn(audience, await audienceContext(db)) : NONE;
}

/** A roll as a whole and by group, the groups with least answered first. */
export async function openRoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  zone = 'UTC',
): Promise<Roll> {
  const opened = await openAsk(db, actor, occurrenceId);
  const { id } = opened.occurrence;
  const roll = opened.owned
    ? await rollOf(db, opened, zone)
    : await onceForAll(db, ['roll', id, zone], async () => rollOf(db, await wholeAsk(db, id), zone));
  return {
    ...roll,
    mayMakeGroups: decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed',
  };
}

/** A roll as it is seen by all who see as much of it. */
async function rollOf(db: Database, opened: Opened, zone: string): Promise<Omit<Roll, 'mayMakeGroups'>> {
  const { occurrence, ask, state, who, owned } = opened;
  const secret = hidesNames(opened);
  const { id } = occurrence;
  const now = await audienceContext(db);
  const named = occurrence.plan.audience ? groupsNamedIn(occurrence.plan.audience) : [];
  const shown = owned ? owned.map((group) => group.id) : named;
  const audience = await audienceNow(db, occurrence);
  const [stations, groups, inAudience, earlier, chases, listMs, forgotten] = await Promise.all([
    talliesByStation(db, id, who, audience),
    Promise.all(
      shown.map(async (groupId): Promise<GroupTally> => ({
        name: now.groups.get(groupId)?.name ?? 'A group that no longer exists',
        ...(await tallyWhere(db, id, condition({ kind: 'group', id: groupId }, now))),
      })),
    ),
    occurrence.plan.audience && !owned ? countPeople(db, occurrence.plan.audience, now) : 0,
    owned ? 0 : earlierCount(db, id),
    owned ? [] : chasesOf(db, id),
    owned ? null : listDue(db, id),
    forgottenOf(db, id),
  ]);
  const forgottenMs = forgotten.answersMs;
  const sum = (of: 'asked' | 'answered' | 'opened' | 'still' | 'gone'): number =>
    stations.reduce((total, station) => total + station[of], 0);
  return {
    occurrenceId: id,
    kind: ask.kind,
    title: occurrence.title,
    dueMs: occurrence.dueMs,
    deadlineMs: occurrence.deadlineMs,
    closedMs: state.closedMs,
    closedWords: closedWords(state, zone),
    statement: statementOf(ask),
    tally: { asked: sum('asked'), answered: sum('answered') },
    opened: secret ? 0 : sum('opened'),
    stations: byNeed(
      // In an organisation without stations nothing is said by them.
      (secret || stations.every(({ name }) => name === null) ? [] : stations).map(
        ({ name, asked, answered, opened: looked }) => ({
          name: name ?? (forgottenMs === null ? 'No station' : 'Elsewhere, or few'),
          asked,
          answered,
          opened: looked,
        }),
      ),
    ),
    groups: byNeed(secret ? [] : groups.filter((group) => group.asked > 0)),
    joinedSince: owned || forgottenMs !== null ? 0 : Math.max(0, inAudience - sum('still')),
    goneSince: owned || secret ? 0 : sum('gone'),
    earlier,
    // How many a chase reached is how many had not voted by then: a figure of the whole.
    chases,
    listMs,
    forgottenMs,
    onlyOf: owned ? owned.map((group) => group.name) : null,
    namesHidden: secret ? NAMES_HIDDEN : forgottenMs === null ? null : forgottenWords(forgottenMs, zone),
    mayAct: owned === null,
  };
}

/** A page of the people on a roll, by name; nobody while a poll without names is open. */
export async function listRoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  options: { part: RollPart; search: string; after: { name: string; id: number } | null },
): Promise<RollListing> {
  const opened = await openAsk(db, actor, occurrenceId);
  const { id } = opened.occurrence;
  return opened.owned
    ? listingOf(db, opened, options)
    : onceForAll(db, ['people on a roll', id, options], async () =>
        listingOf(db, await wholeAsk(db, id), options),
      );
}

async function listingOf(
  db: Database,
  opened: Opened,
  options: Parameters<typeof listRoll>[3],
): Promise<RollListing> {
  if (hidesNames(opened)) return { people: [], next: null };
  const { occurrence, who, ask } = opened;
  const found = await rollPage(db, occurrence.id, {
    ...options,
    search: options.search.trim(),
    most: PAGE + 1,
    who,
    audience: await audienceNow(db, occurrence),
  });
  const people = found.slice(0, PAGE).map((row) => ({
    ...(withoutNames(ask) ? timeless(row) : row),
    answered: row.answered === 1,
    left: row.left === 1,
    gone: row.gone === 1,
  }));
  const last = people.at(-1);
  return { people, next: found.length > PAGE && last ? { name: last.name, id: last.personId } : null };
}

/** Demands that this person may see an ask's roll by name; a 409 problem while a poll without names is open. */
export async function requireNames(db: Database, actor: Actor, occurrenceId: number): Promise<void> {
  if (hidesNames(await openAsk(db, actor, occurrenceId))) throw new Problem(409, NAMES_HIDDEN);
}

/** The whole roll, page after page, for a file. */
export async function* wholeRoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): AsyncGenerator<RollRow[]> {
  const opened = await openAsk(db, actor, occurrenceId);
  if (hidesNames(opened)) throw new Problem(409, NAMES_HIDDEN);
  const { occurrence, who, ask } = opened;
  const audience = await audienceNow(db, occurrence);
  let after: { name: string; id: number } | null = null;
  do {
    const page: RollRow[] = await rollPage(db, occurrence.id, {
      part: 'all',
      search: '',
      after,
      most: 5000,
      who,
      audience,
    });
    yield withoutNames(ask) ? page.map(timeless) : page;
    const last = page.at(-1);
    after = page.length === 5000 && last ? { name: last.name, id: last.personId } : null;
  } while (after);
}

/**
 * Records an acknowledgement. The first one counts; acknowledging again changes nothing and is no error, so that
 * a double tap, the mail and the page at once come to one answer.
 *
 * @returns when it was acknowledged, in milliseconds since 1970
 * @throws 404 where this person was not asked
 */
export async function acknowledge(
  db: Database,
  personId: number,
  occurrenceId: number,
  via: 'page' | 'mail' | 'push',
): Promise<number> {
  const occurrence = await occurrenceById(db, occurrenceId);
  const id = occurrence?.rollOf ?? occurrenceId;
  await answer(db, '', personId, id, {}, via);
  const answeredMs = await answerOf(db, id, personId);
  if (answeredMs === undefined || answeredMs === null) throw notFound('ask');
  return answeredMs;
}

/** Demands that an ask is asked of this person, or theirs to see; a 404 problem where it is neither. */
export async function requireAskSeen(db: Database, actor: Actor, occurrenceId: number): Promise<void> {
  if ((await answerOf(db, occurrenceId, actor.id)) === undefined) await openAsk(db, actor, occurrenceId);
}

/** Closes an ask by hand; what was answered stands, and its outcome or digest goes out. */
export async function closeByHand(db: Database, actor: Actor, occurrenceId: number): Promise<void> {
  const { occurrence, owned } = await openAsk(db, actor, occurrenceId);
  if (owned) throw new Problem(403, 'Only whoever asked, or a coordinator, closes it.');
  await transact(db, async (trx) => {
    if (!(await closeAsk(trx, occurrence.id, 'hand', actor.id)))
      throw new Problem(409, 'It is closed already.');
    await record(trx, {
      actorId: actor.id,
      action: 'close',
      subject: 'occurrence',
      subjectId: occurrence.id,
    });
    await emit(trx, 'ask.closed', { occurrence: occurrence.id });
  });
}
