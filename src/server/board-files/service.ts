import type { z } from 'zod';
import type { BoardFile, BoardFiles, FileOrder } from '../../core/boards/files.ts';
import type { fileArchivedSchema } from '../../core/boards/filesSchema.ts';
import { filePath } from '../../core/content/section.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { requireOnBoard, visibleBoard } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound } from '../problem.ts';
import { addressIn } from '../uploads/address.ts';
import { filesOn, setArchived, type FileRow } from './store.ts';

const MOST = 500;

/** What a file stands in, with the address by which it can be read there. */
function placed(row: FileRow, boardId: number): BoardFile {
  const { key, name, bytes, by, atMs, postId, replyId } = row;
  const path = filePath({ key, name, mime: '', bytes });
  const common = { key, name, bytes, by, atMs, archived: row.archived === 1 };
  if (postId === null)
    return {
      ...common,
      href: addressIn('board', boardId)(path),
      where: 'a key link',
      path: `/boards/${boardId}#links`,
    };
  return replyId === null
    ? { ...common, href: addressIn('post', postId)(path), where: row.title, path: `/posts/${postId}` }
    : {
        ...common,
        href: addressIn('reply', replyId)(path),
        where: `a reply to ${row.title}`,
        path: `/posts/${postId}#reply-${replyId}`,
      };
}

/** All files that stand on a board, for whoever may see it. */
export async function boardFiles(
  db: Database,
  actor: Actor,
  boardId: number,
  order: FileOrder,
): Promise<BoardFiles> {
  const board = await visibleBoard(db, actor, boardId);
  const found = await filesOn(db, boardId, order, MOST + 1);
  return {
    board: { id: board.id, name: board.name },
    files: found.slice(0, MOST).map((row) => placed(row, boardId)),
    more: found.length > MOST,
    mayArchive:
      decide(actor, { kind: 'on board', permission: 'change settings', board: board.rules }).outcome ===
      'allowed',
  };
}

/** Lists one file apart, or with the others again. It stays where it was posted. */
export async function archiveFile(
  db: Database,
  actor: Actor,
  boardId: number,
  { key, archived }: z.infer<typeof fileArchivedSchema>,
): Promise<void> {
  const board = await visibleBoard(db, actor, boardId);
  requireOnBoard(actor, 'change settings', board);
  const file = (await filesOn(db, boardId, 'newest', MOST)).find((row) => row.key === key);
  if (!file) throw notFound('file');
  await transact(db, async (trx) => {
    if (!(await setArchived(trx, boardId, key, archived, actor.id))) return;
    await record(trx, {
      actorId: actor.id,
      action: archived ? 'archive file' : 'bring back file',
      subject: 'board',
      subjectId: boardId,
      detail: { file: file.name },
    });
    await emit(trx, 'board.changed', { board: boardId });
  });
}
