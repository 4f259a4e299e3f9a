import { searchText } from '../../core/content/text.ts';
import type { Database } from '../database/connection.ts';
import { makeFindable, makeUnfindable } from '../search/indexStore.ts';
import { postById, type PostRow } from './store.ts';

/** Makes a post findable, or not, as it now stands. */
async function indexPost(db: Database, post: PostRow): Promise<void> {
  if (post.state !== 'up') {
    await makeUnfindable(db, 'post', post.id);
    return;
  }
  await makeFindable(db, {
    kind: 'post',
    subjectId: post.id,
    boardId: post.boardId,
    occurrenceId: post.occurrenceId,
    authorId: post.authorId,
    category: '',
    atMs: post.postedMs,
    asks: false,
    title: post.title,
    body: searchText(post.body.sections),
  });
}

export async function reindex(db: Database, id: number): Promise<void> {
  const post = await postById(db, id);
  if (post) await indexPost(db, post);
}
