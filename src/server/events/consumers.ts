import type { Handlers, Consumer } from './follow.ts';
import { reindexCheckIn } from '../asks/check-in/checkInIndexing.ts';
import { askNotices } from '../asks/notifying.ts';
import { draftNotices } from '../announcements/notifying.ts';
import { reindexLinks } from '../boards/indexing.ts';
import { reindex } from '../posts/indexing.ts';
import { postNotices } from '../posts/notifying.ts';
import { reindexReply } from '../replies/indexing.ts';
import { sendsOfSessions } from '../calendar/following.ts';
import { automationCauses } from '../automations/acting.ts';
import { passedOn } from '../gateways/passing.ts';
import { signUpConfirmations } from '../sign-ups/confirming.ts';
import { indexMissing, indexOccurrence } from '../search/service.ts';
import { reindexAnswer, shelfNotices } from '../shelf/following.ts';

/** What is taken into the search, or out of it, as it stands when its event is followed up. */
const finding: Handlers = {
  'post.published': (trx, of) => reindex(trx, of.post),
  'post.held': (trx, of) => reindex(trx, of.post),
  'post.changed': (trx, of) => reindex(trx, of.post),
  'post.decided': (trx, of) => reindex(trx, of.post),
  'post.withdrawn': (trx, of) => reindex(trx, of.post),
  'reply.published': (trx, of) => reindexReply(trx, of.reply),
  'reply.recorded': (trx, of) => reindexReply(trx, of.reply),
  'reply.changed': (trx, of) => reindexReply(trx, of.reply),
  'reply.decided': (trx, of) => reindexReply(trx, of.reply),
  'check-in.said': (trx, of) => reindexCheckIn(trx, of.occurrence, of.person),
  'board.changed': (trx, of) => reindexLinks(trx, of.board),
  'answer.changed': (trx, of) => reindexAnswer(trx, of.answer),
  'answer.removed': (trx, of) => reindexAnswer(trx, of.answer),
  'occurrence.reached': async (trx, of) => {
    await indexMissing(trx, of.occurrence);
  },
  'occurrence.corrected': (trx, of) => indexOccurrence(trx, of.occurrence),
  'occurrence.withdrawn': async (trx, of) => {
    await indexOccurrence(trx, of.occurrence);
    for (const post of of.posts) await reindex(trx, post);
  },
};

/** Everybody who follows the events, besides the live updates, which look at the last seconds. */
export const CONSUMERS: readonly Consumer[] = [
  { name: 'finding', handlers: finding },
  {
    name: 'telling',
    handlers: {
      ...postNotices,
      ...shelfNotices,
      ...draftNotices,
      ...askNotices,
      ...signUpConfirmations,
      ...sendsOfSessions,
    },
  },
  { name: 'acting', handlers: automationCauses },
  { name: 'passing', handlers: passedOn },
];
