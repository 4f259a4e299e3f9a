import { people } from '../../core/words.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { listensToAsks, type ASKED, type Automation, type When } from '../../core/automation/automation.ts';
import type { Cause } from '../../core/automation/cause.ts';
import type { Row } from '../../core/automation/items.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { askStates, openSecretPolls } from '../asks/askStore.ts';
import { tallies } from '../asks/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import {
  answeredAt,
  answeredBetween,
  closedBetween,
  deadlinesBetween,
  lastAsk,
  sentAsk,
  type AskMoment,
} from './askCauseStore.ts';
import { insertRun } from './runStore.ts';
import { listeningAs, type AutomationRow } from './store.ts';
import { servedKind } from '../asks/kinds.ts';

type OnAsks = Extract<When, { kind: 'ask closes' | 'ask answered' }>;
type Live = Pick<AutomationRow, 'id' | 'ownerId' | 'liveVersionId' | 'lookedUntilMs'> & { live: Automation };

/** Whether an automation listens to an ask: of its kind, and its owner's own or anybody's. */
const listensTo = (when: OnAsks, ownerId: number, ask: { kind: string; createdBy: number }): boolean =>
  (when.asks === 'any' || when.asks === ask.kind) && (when.whose === 'all' || ask.createdBy === ownerId);

const lineUp = (
  db: Database,
  { id, liveVersionId }: Live,
  cause: Extract<Cause, { kind: 'ask' }>,
  causeKey: string,
  dueMs: number,
): Promise<boolean> =>
  liveVersionId === null
    ? Promise.resolve(false)
    : insertRun(db, { automationId: id, versionId: liveVersionId, causeKey, cause, dueMs });

/** Lines up what an ask that closed, or was answered once more, sets off: once for each ask. */
export async function onAsk(trx: Database, kind: OnAsks['kind'], occurrenceId: number): Promise<void> {
  const listening = await listeningAs(trx, kind);
  if (listening.length === 0) return;
  const ask = await sentAsk(trx, occurrenceId);
  if (!ask) return;
  const dueMs = await databaseNow(trx);
  const reached = new Map<number, number | null>();
  for (const automation of listening) {
    const { when } = automation.live;
    if (!listensToAsks(when) || !listensTo(when, automation.ownerId, ask)) continue;
    const cause = { kind: 'ask' as const, occurrenceId };
    if (when.kind === 'ask closes') {
      await lineUp(trx, automation, cause, `closed.${occurrenceId}`, dueMs);
      continue;
    }
    const atMs = reached.get(when.share) ?? (await answeredAt(trx, occurrenceId, when.share));
    reached.set(when.share, atMs);
    // What had been answered by so many before it was put to work is none of its business.
    if (atMs !== null && atMs >= automation.lookedUntilMs)
      await lineUp(trx, automation, cause, `answered.${when.share}.${occurrenceId}`, dueMs);
  }
}

/** Lines up the deadlines of acknowledgements, which nothing but time brings about; gives how many. */
export async function lineUpDeadlines(
  db: Database,
  automation: Live,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<number> {
  const { when } = automation.live;
  if (when.kind !== 'ask closes') return 0;
  let linedUp = 0;
  for (const { occurrenceId, createdBy, atMs } of await deadlinesBetween(db, when, fromMs, toMs, most)) {
    if (!listensTo(when, automation.ownerId, { kind: 'acknowledgement', createdBy })) continue;
    const cause = { kind: 'ask' as const, occurrenceId, deadlineMs: atMs };
    if (await lineUp(db, automation, cause, `deadline.${occurrenceId}.${atMs}`, atMs)) linedUp++;
  }
  return linedUp;
}

/** The asks an automation would have been set off by in a period of the past, in order. */
export async function pastAsks(
  db: Database,
  when: OnAsks,
  ownerId: number,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<AskMoment[]> {
  const own = (each: { createdBy: number }): boolean => when.whose === 'all' || each.createdBy === ownerId;
  if (when.kind === 'ask closes')
    return [
      ...(await closedBetween(db, when, fromMs, toMs, most)),
      ...(await deadlinesBetween(db, when, fromMs, toMs, most)),
    ]
      .filter(own)
      .sort((a, b) => a.atMs - b.atMs);
  const found: AskMoment[] = [];
  for (const each of (await answeredBetween(db, when, fromMs, toMs, most)).filter(own)) {
    const atMs = await answeredAt(db, each.occurrenceId, when.share);
    if (atMs !== null && atMs >= fromMs && atMs < toMs) found.push({ ...each, atMs });
  }
  return found.sort((a, b) => a.atMs - b.atMs);
}

/** What it can be tried on: the ask that was sent last of those it listens to. */
export const askToTry = (db: Database, when: OnAsks, ownerId: number): Promise<number | undefined> =>
  lastAsk(db, when, when.whose === 'own' ? ownerId : null);

/** What came of an ask, in words. Of a poll that is open only what everybody may see. */
async function outcomeOf(
  db: Database,
  { id, asked: ask, chases }: Occurrence,
  tally: { asked: number; answered: number },
  closed: boolean,
  zone: string,
): Promise<string> {
  if (chases !== null || ask.kind === 'nothing') return `${tally.answered} of ${people(tally.asked)}`;
  return servedKind(ask).outcomeWords(db, id, ask, { ...tally, closed, zone });
}

/**
 * The ask a cause is of as a row with what is known of it; none where it was withdrawn meanwhile, is not its owner's to see, or
 * has another deadline by now.
 */
export async function askRows(
  db: Database,
  owner: Actor,
  { occurrenceId, deadlineMs }: Extract<Cause, { kind: 'ask' }>,
  zone: string,
): Promise<Row[]> {
  const [occurrence, ask] = await Promise.all([occurrenceById(db, occurrenceId), sentAsk(db, occurrenceId)]);
  if (!occurrence || !ask || occurrence.unreadable) return [];
  if (deadlineMs !== undefined && occurrence.deadlineMs !== deadlineMs) return [];
  if (decide(owner, { kind: 'see send', authorId: occurrence.createdBy }).outcome !== 'allowed') return [];
  const tally = (await tallies(db, [occurrenceId])).get(occurrenceId) ?? { asked: 0, answered: 0 };
  const share = tally.asked === 0 ? 0 : Math.floor((100 * tally.answered) / tally.asked);
  return [
    {
      id: occurrenceId,
      values: new Map([
        ['ask.title', occurrence.title],
        ['ask.kind', ask.kind],
        ['ask.author', occurrence.createdByName],
        ['ask.outcome', await outcomeOf(db, occurrence, tally, ask.closed, zone)],
        ['ask.asked', String(tally.asked)],
        ['ask.answered', String(tally.answered)],
        ['ask.silent', String(tally.asked - tally.answered)],
        ['ask.share', String(share)],
      ]),
    },
  ];
}

/** Those who were asked, or some of them; or why they cannot be told. */
export async function askedOf(
  db: Database,
  occurrenceId: number,
  which: (typeof ASKED)[number],
): Promise<Audience | { reason: string }> {
  if ((await askStates(db, [occurrenceId])).size === 0) return { reason: 'It asks for nothing any more.' };
  if (which !== 'all' && (await openSecretPolls(db, [occurrenceId])).length > 0)
    return { reason: 'Who has voted in a poll without names is not told while it is open.' };
  const who = (answered: boolean): Audience => ({ kind: 'answered', occurrenceId, answered });
  switch (which) {
    case 'all':
      return { kind: 'any', of: [who(true), who(false)] };
    case 'silent':
      return who(false);
    case 'answered':
      return who(true);
  }
}

/** Who sent an ask; undefined where it is gone. */
export const authorOf = async (db: Database, occurrenceId: number): Promise<number | undefined> =>
  (await sentAsk(db, occurrenceId))?.createdBy;
