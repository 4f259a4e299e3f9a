import { decide, type Actor } from '../../core/rights/decide.ts';
import { shortDate } from '../../core/timing/words.ts';
import { boardsSeenBy } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { visiblePost } from '../posts/opening.ts';
import { requireWriter, type AnswerDraft } from './service.ts';
import { announcementsGone } from './store.ts';

const MOST = 12;

/** What went out, with some letters in its title, with its date: as names to choose from. For those who write answers. */
export async function announcementsNamed(
  db: Database,
  { actor, zone }: { actor: Actor; zone: string },
  letters: string,
): Promise<{ kind: 'announcement'; id: number; name: string; detail: string }[]> {
  requireWriter(actor);
  const found = await announcementsGone(db, letters.trim(), MOST);
  return found.map(({ id, title, dueMs }) => ({
    kind: 'announcement',
    id,
    name: title,
    detail: shortDate(dueMs, zone),
  }));
}

/** The boards on which this person may answer a question for all. */
export async function boardsForAnswers(db: Database, actor: Actor): Promise<{ id: number; name: string }[]> {
  return (await boardsSeenBy(db, actor))
    .filter(
      (board) =>
        decide(actor, { kind: 'on board', permission: 'post', board: board.rules }).outcome === 'allowed',
    )
    .map(({ id, name }) => ({ id, name }));
}

/** What an answer is begun from that puts a post on the shelf; a 404 problem where the post is not this person's to see. */
export async function answerFromPost(db: Database, actor: Actor, postId: number): Promise<AnswerDraft> {
  requireWriter(actor);
  const { post } = await visiblePost(db, actor, postId);
  return {
    question: post.title.slice(0, 200),
    document: {
      type: 'doc',
      content: post.body.sections.flatMap((section) => section.document.content),
    },
    subjectId: 0,
    occurrenceId: post.occurrenceId,
    announcement: post.occurrenceId === null ? null : post.title,
    published: true,
  };
}
