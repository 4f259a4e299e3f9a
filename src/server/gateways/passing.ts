import type { Audience } from '../../core/audience/expression.ts';
import { OF_A_BOARD, type OutKind } from '../../core/gateways/hookOut.ts';
import { tallies } from '../asks/store.ts';
import { condition } from '../audience/sql.ts';
import { holdsOf, isAnybodyIn } from '../audience/store.ts';
import { runById } from '../automations/runStore.ts';
import type { Database } from '../database/connection.ts';
import { onceIn } from '../database/onceIn.ts';
import type { Handlers } from '../events/follow.ts';
import { audienceContext } from '../groups/directory.ts';
import { personById } from '../people/store.ts';
import { postById } from '../posts/store.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { notifyPlaces } from './travelling.ts';
import { anyBoardOf, hooksTold, insertHandovers, type HookOutRow } from './outStore.ts';

/** What is told of one event: its data, the page that shows it here, and the board it is of, where it is of one. */
interface Told {
  /** Sets it apart: told again, it is the same event. */
  key: string;
  subject: string;
  data: Record<string, unknown>;
  /** The path of its page. */
  path: string;
  boards?: readonly number[];
  /** Whom it is of, or whom it reaches; what is of nobody is told whatever group a way out is limited to. */
  people?: { id: number } | Audience;
}

/** Whether an event is of somebody in a group, or reaches one of them or a board of theirs. */
async function isOfGroup(trx: Database, { people, boards = [] }: Told, groupId: number): Promise<boolean> {
  if (!people) return true;
  const now = await audienceContext(trx);
  if (!now.groups.has(groupId)) return false;
  const group: Audience = { kind: 'group', id: groupId };
  const theirs =
    'kind' in people
      ? await isAnybodyIn(trx, { kind: 'all', of: [people, group] }, now)
      : // Also of somebody who has just left, and is in no audience any more.
        await holdsOf(trx, people.id, condition(group, now));
  return theirs || (await anyBoardOf(trx, boards, groupId));
}

/**
 * Lines an event up for every way out that follows its kind, in the transaction in which it is followed up. What is told of it
 * is read only where one does.
 */
async function pass(trx: Database, kind: OutKind, read: () => Promise<Told | undefined>): Promise<void> {
  const follow = (await onceIn(trx, 'hooks told', () => hooksTold(trx))).filter(({ hook }) =>
    hook.kinds.includes(kind),
  );
  const told = follow.length > 0 ? await read() : undefined;
  if (!told) return;
  const onBoard = follow.filter(
    ({ hook: { boardId } }) =>
      boardId === null || !OF_A_BOARD.includes(kind) || (told.boards ?? []).includes(boardId),
  );
  const following: HookOutRow[] = [];
  for (const row of onBoard) {
    const { groupId } = row.hook;
    if (groupId === null || (await isOfGroup(trx, told, groupId))) following.push(row);
  }
  const body = JSON.stringify({
    specversion: '1.0',
    id: told.key,
    type: `clear-bell.${kind}`,
    subject: told.subject,
    time: new Date().toISOString(),
    datacontenttype: 'application/json',
    data: { ...told.data, path: told.path },
  });
  await insertHandovers(
    trx,
    following.map(({ id }) => ({ hookId: id, eventKey: told.key, kind, subject: told.subject, body })),
  );
}

const ofPost = (trx: Database, id: number, event: number): Promise<void> =>
  pass(trx, 'post.up', async () => {
    const post = await postById(trx, id);
    // What an announcement put on its boards is told of as an announcement.
    if (post?.state !== 'up' || post.occurrenceId !== null) return undefined;
    return {
      key: `post.up.${id}.${event}`,
      subject: `post:${id}`,
      data: {
        post: id,
        board: post.boardId,
        title: post.title,
        author: post.byline || post.authorName,
        importance: post.importance,
      },
      path: `/posts/${id}`,
      boards: [post.boardId],
      people: { id: post.authorId },
    };
  });

const ofOccurrence = (
  trx: Database,
  id: number,
  kind: 'announcement.sent' | 'announcement.corrected' | 'ask.answered' | 'ask.closed',
  key: string,
): Promise<void> =>
  pass(trx, kind, async () => {
    const occurrence = await occurrenceById(trx, id);
    // What is sent to try it, or to one person, is nobody else's to know.
    if (!occurrence || occurrence.toOne || (occurrence.kind !== 'send' && occurrence.kind !== 'correction'))
      return undefined;
    const tally = (await tallies(trx, [id])).get(id);
    return {
      key,
      subject: `announcement:${id}`,
      data: {
        announcement: id,
        title: occurrence.title,
        importance: occurrence.importance,
        author: occurrence.createdByName,
        boards: occurrence.plan.boards,
        asks: occurrence.asked.kind,
        ...(kind === 'announcement.corrected' ? { correction: occurrence.correction } : {}),
        ...(tally ? { asked: tally.asked, answered: tally.answered } : {}),
      },
      path: `/sends/${id}`,
      boards: occurrence.plan.boards,
      people: occurrence.plan.audience ?? { kind: 'any', of: [] },
    };
  });

const ofPerson = (
  trx: Database,
  id: number,
  kind: 'person.joined' | 'person.left',
  event: number,
): Promise<void> =>
  pass(trx, kind, async () => {
    const person = await personById(trx, id);
    return (
      person && {
        key: `${kind}.${id}.${event}`,
        subject: `person:${id}`,
        data: { person: id, name: person.name, mail: person.mail, station: person.stationName },
        path: `/person/${id}`,
        people: { id },
      }
    );
  });

/** What outside systems are told of: each event of theirs is lined up for every way out that follows it. */
export const passedOn: Handlers = {
  'post.published': (trx, of, event) => ofPost(trx, of.post, event),
  'post.decided': (trx, of, event) =>
    of.decision === 'approve' ? ofPost(trx, of.post, event) : Promise.resolve(),
  // It reaches its readers zone by zone; outside it is told once, when the first of them have it.
  'occurrence.reached': (trx, of) =>
    ofOccurrence(trx, of.occurrence, 'announcement.sent', `announcement.sent.${of.occurrence}`),
  'occurrence.corrected': async (trx, of, event) => {
    await ofOccurrence(trx, of.occurrence, 'announcement.corrected', `announcement.corrected.${event}`);
    await notifyPlaces(trx, of.occurrence, 'corrected', event);
  },
  'occurrence.withdrawn': (trx, of, event) =>
    notifyPlaces(trx, of.occurrence, of.withdrawn ? 'withdrawn' : 'reinstated', event),
  'ask.answered': (trx, of, event) =>
    ofOccurrence(trx, of.occurrence, 'ask.answered', `ask.answered.${event}`),
  'ask.closed': (trx, of, event) => ofOccurrence(trx, of.occurrence, 'ask.closed', `ask.closed.${event}`),
  'person.added': (trx, of, event) => ofPerson(trx, of.person, 'person.joined', event),
  'person.returned': (trx, of, event) => ofPerson(trx, of.person, 'person.joined', event),
  'person.left': (trx, of, event) => ofPerson(trx, of.person, 'person.left', event),
  'automation.ran': (trx, of, event) =>
    pass(trx, 'run.failed', async () => {
      const run = await runById(trx, of.run);
      if (run?.state !== 'failed' && run?.state !== 'held' && run?.state !== 'lapsed') return undefined;
      return {
        key: `run.failed.${of.run}.${event}`,
        subject: `automation:${of.automation}`,
        data: {
          automation: of.automation,
          name: run.name,
          run: of.run,
          state: run.state,
          reason: run.reason,
        },
        path: `/automations/${of.automation}`,
      };
    }),
};
