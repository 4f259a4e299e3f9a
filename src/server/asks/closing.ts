import type { Asking } from '../../core/asks/ask.ts';
import { digestDocument } from '../../core/asks/checkIn.ts';
import { outcomeWords } from '../../core/asks/count/outcome.ts';
import type { Poll } from '../../core/asks/poll.ts';
import { simpleContent } from '../../core/content/announcement.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import { shortDate, zoneWords } from '../../core/timing/words.ts';
import { people as peopleWords } from '../../core/words.ts';
import { insertAnnouncement } from '../announcements/store.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { condition } from '../audience/sql.ts';
import { allBoards } from '../boards/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyEverybody, notifyPeople } from '../notices/notify.ts';
import { emit } from '../events/store.ts';
import { organisation } from '../people/store.ts';
import { insertMemberPost } from '../posts/store.ts';
import { postsOfOccurrence } from '../posts/occurrencePostStore.ts';
import { insertReply } from '../replies/store.ts';
import { recallChases } from '../sends/chaseStore.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { setAside, takeUpAgain } from '../aside/store.ts';
import { callOffAll, claimClosed, claimList, closeDue, listsDue, unsettled } from './askStore.ts';
import { pollOptions } from './ballotStore.ts';
import { outcomeShown } from './boxes.ts';
import { notHeardFrom, saidIn } from './checkInStore.ts';
import { dateOf } from './checkInDate.ts';
import { tallies, tallyWhere, zonesOnRoll } from './store.ts';

const AT_ONCE = 20;
const MOST_SAID = 500;
const MOST_MISSING = 200;

/**
 * Closes what has come to its time, and does what is due after each closing: the outcome of a poll and the digest of a
 * check-in go up, and nobody is chased any more. Each once, however many engines look.
 *
 * @returns how many it closed or settled
 */
export async function closeAndSettle(db: Database, failed: AskFailed): Promise<number> {
  const closed = (await closeDue(db, AT_ONCE)).length;
  return closed + (await eachAside(db, 'closing', await unsettled(db, AT_ONCE), failed, settleOne));
}

/** Told of an error in the work of one occurrence, for the log. */
export type AskFailed = (error: unknown, occurrenceId: number) => void;

/**
 * Does a piece of work for each of some occurrences, each in a transaction of its own. One that fails is set aside and the
 * rest goes on.
 *
 * @returns how many were done
 */
async function eachAside(
  db: Database,
  kind: 'closing' | 'list',
  ids: readonly number[],
  failed: AskFailed,
  work: (trx: Database, occurrence: Occurrence) => Promise<boolean>,
): Promise<number> {
  let done = 0;
  for (const id of ids) {
    try {
      const worked = await transact(db, async (trx) => {
        const occurrence = await occurrenceById(trx, id);
        if (!occurrence || occurrence.unreadable)
          throw new Error('Its plan cannot be read by this version of Clear Bell');
        return work(trx, occurrence);
      });
      if (worked) done++;
      await takeUpAgain(db, kind, id);
    } catch (error) {
      failed(error, id);
      await setAside(db, kind, id, id, error);
    }
  }
  return done;
}

async function settleOne(trx: Database, occurrence: Occurrence): Promise<boolean> {
  const { id, asked: ask } = occurrence;
  if (!(await claimClosed(trx, id))) return false;
  await recallChases(trx, id, 'What it follows up has closed.');
  await callOffAll(trx, id);
  if (ask.kind === 'poll' && ask.poll.postBack) await postOutcome(trx, occurrence, ask.poll);
  if (ask.kind === 'check-in' && ask.digestOn.length > 0) await postDigest(trx, occurrence, ask);
  await emit(trx, 'ask.closed', { occurrence: id });
  return true;
}

/** Posts what came of a poll: as a reply under its posts on boards, and as a notice to those who were asked. */
async function postOutcome(trx: Database, occurrence: Occurrence, poll: Poll): Promise<void> {
  const { id } = occurrence;
  const [options, counted, home] = await Promise.all([
    pollOptions(trx, id, poll),
    tallies(trx, [id]),
    organisation(trx),
  ]);
  const asked = counted.get(id)?.asked ?? 0;
  const { outcome, hidden } = await outcomeShown(trx, id, poll, options, { closed: true, asked });
  const homeZone = home?.zone ?? 'UTC';
  const wordsIn = (zone: string): string =>
    outcome ? outcomeWords(poll, options, outcome, asked, zone) : (hidden ?? 'There is no result to show.');
  // On a board it is read on every clock, so the one it is told on is named.
  const named = poll.kind === 'dates' && outcome ? ` Times are those of ${zoneWords(homeZone)}.` : '';
  const text = `The poll “${poll.question.trim()}” has closed. ${wordsIn(homeZone)}${named}`;
  const document = {
    type: 'doc' as const,
    content: [{ type: 'paragraph' as const, content: [{ type: 'text' as const, text }] }],
  };
  for (const post of await postsOfOccurrence(trx, id)) {
    const reply = await insertReply(trx, {
      postId: post.id,
      authorId: occurrence.createdBy,
      document,
      files: [],
      key: `outcome-${id}-${post.id}`,
    });
    // A post that was taken down or takes no replies any more has the outcome in its box alone.
    if (reply === undefined) continue;
    await emit(trx, 'reply.recorded', { reply, post: post.id, board: post.boardId });
  }
  // A notice is read by one person, so dates in it are on that person's clock.
  const zones = poll.kind === 'dates' ? await zonesOnRoll(trx, id) : [null];
  for (const zone of zones)
    await notifyEverybody(
      trx,
      {
        sql: `p.id IN (SELECT r.person_id FROM roll r WHERE r.occurrence_id = ?)${zone === null ? '' : ' AND p.zone = ?'}`,
        bindings: zone === null ? [id] : [id, zone],
      },
      {
        kind: 'outcome',
        title: `The poll has closed: ${poll.question.trim()}`,
        text: wordsIn(zone ?? homeZone),
        path: `/for-me/${id}`,
        why: 'You were asked in this poll.',
        about: `outcome:${id}`,
      },
    );
}

/** Posts what was said in a check-in to the boards chosen for it, under the name of whoever asked. */
async function postDigest(
  trx: Database,
  occurrence: Occurrence,
  ask: Extract<Asking, { kind: 'check-in' }>,
): Promise<void> {
  const { id } = occurrence;
  const [said, missing, home, boards] = await Promise.all([
    saidIn(trx, id, MOST_SAID),
    notHeardFrom(trx, id, MOST_MISSING),
    organisation(trx),
    allBoards(trx),
  ]);
  if (said.length === 0 && missing.length === 0) return;
  const date = dateOf(
    occurrence.plan,
    occurrence.movedTo ?? occurrence.recursAt,
    occurrence.dueMs,
    home?.zone ?? 'UTC',
  );
  const title = `${occurrence.title}, ${shortDate(Date.parse(`${date}T12:00Z`), 'UTC')}`.slice(0, 150);
  const content = simpleContent(
    title,
    digestDocument(
      ask.questions,
      said,
      missing.map((person) => person.name),
    ),
  );
  const announcementId = await insertAnnouncement(
    trx,
    occurrence.createdBy,
    content,
    EMPTY_PLAN,
    'committed',
  );
  const versionId = await freezeVersion(trx, announcementId, occurrence.createdBy, content, 'sent');
  for (const board of boards.filter(
    (each) => ask.digestOn.includes(each.id) && !each.archived && each.automations,
  )) {
    const postId = await insertMemberPost(trx, {
      boardId: board.id,
      versionId,
      authorId: occurrence.createdBy,
      key: `digest-${id}-${board.id}`,
    });
    await emit(trx, 'post.published', { post: postId, board: board.id });
  }
}

/** Tells the owners of groups who of theirs is still missing, where the chase of an ask says so and its time has come. */
export async function listMissing(db: Database, failed: AskFailed): Promise<number> {
  return eachAside(db, 'list', await listsDue(db, AT_ONCE), failed, listOne);
}

async function listOne(trx: Database, occurrence: Occurrence): Promise<boolean> {
  const { id } = occurrence;
  if (!(await claimList(trx, id))) return false;
  // Of a poll without names it is told of nobody while it is open.
  if (occurrence.asked.kind === 'poll' && occurrence.asked.poll.anonymous) return true;
  const now = await audienceContext(trx);
  for (const group of now.groups.values()) {
    if (group.ownerIds.length === 0) continue;
    const audience = { kind: 'group', id: group.id } as const;
    if (!isReadable(audience, now)) continue;
    const tally = await tallyWhere(trx, id, condition(audience, now));
    const missing = tally.asked - tally.answered;
    if (missing === 0) continue;
    await notifyPeople(trx, group.ownerIds, {
      kind: 'outcome',
      title: `${peopleWords(missing)} of ${group.name} ${missing === 1 ? 'has' : 'have'} not answered`,
      text: `${tally.answered} of ${tally.asked} have answered “${occurrence.title}”. See who is missing.`,
      path: `/answers/${id}`,
      why: `You look after ${group.name}, and whoever asked wants its owners to know.`,
      about: `missing:${id}:${group.id}`,
    });
  }
  return true;
}
