import { plainWords } from '../../core/content/text.ts';
import type { Database } from '../database/connection.ts';
import { postById } from '../posts/store.ts';
import { makeFindable, makeUnfindable } from '../search/indexStore.ts';
import { replyById } from './store.ts';

/** Makes a reply findable, or not, as it now stands. */
export async function reindexReply(db: Database, id: number): Promise<void> {
  const reply = await replyById(db, id);
  const post = reply && (await postById(db, reply.postId));
  if (!post || reply.state !== 'up') {
    await makeUnfindable(db, 'reply', id);
    return;
  }
  await makeFindable(db, {
    kind: 'reply',
    subjectId: id,
    boardId: post.boardId,
    occurrenceId: null,
    authorId: reply.authorId,
    category: '',
    atMs: reply.writtenMs,
    asks: false,
    title: `Re: ${post.title}`,
    body: [plainWords(reply.document), ...reply.files.map((file) => file.name)].join('\n'),
  });
}
