import type { Database } from '../database/connection.ts';
import { forgetOfBoard, makeFindable } from '../search/indexStore.ts';
import { allBoards, linksOf } from './store.ts';

/** Makes the key links of a board findable by what they are called, as they now stand. */
export async function reindexLinks(db: Database, boardId: number): Promise<void> {
  await forgetOfBoard(db, 'link', boardId);
  const [links, boards] = await Promise.all([linksOf(db, boardId), allBoards(db)]);
  const board = boards.find((each) => each.id === boardId);
  if (!board) return;
  for (const link of links)
    await makeFindable(db, {
      kind: 'link',
      subjectId: link.id,
      boardId,
      occurrenceId: null,
      authorId: board.ownerId ?? 0,
      category: '',
      atMs: null,
      asks: false,
      title: link.label,
      body: `A key link of ${board.name}. ${link.url.startsWith('/files/') ? 'A file.' : link.url}`,
    });
}
