import type { z } from 'zod';
import { simpleContent } from '../../core/content/announcement.ts';
import type { Doc } from '../../core/content/document.ts';
import type { answerSchema } from '../../core/shelf/shelf.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireOnBoard, visibleBoard, type BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { putUpOnce } from '../posts/puttingUp.ts';
import { questionById } from './store.ts';

/** A board on which a question may be answered for all; a problem where this person may not post there. */
export async function boardForAnswer(db: Database, actor: Actor, boardId: number): Promise<BoardForReader> {
  const board = await visibleBoard(db, actor, boardId);
  requireOnBoard(actor, 'post', board);
  return board;
}

/**
 * Puts a question with its answer on a board, once: whoever asked is named only where they wished it. It is a post of whoever
 * answers.
 */
export async function answerOnBoard(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  input: z.infer<typeof answerSchema>,
  answerId: number,
): Promise<void> {
  const question = input.settles === null ? undefined : await questionById(db, input.settles);
  const asked: Doc['content'] = question
    ? [
        {
          type: 'paragraph',
          content: [
            {
              type: 'text',
              text: `${question.named ? question.by : 'Somebody'} asked: “${question.text}”`,
              marks: [{ type: 'italic' }],
            },
          ],
        },
      ]
    : [];
  const document: Doc = { type: 'doc', content: [...asked, ...input.document.content] };
  await putUpOnce(db, actor, board, simpleContent(input.question, document), {
    key: `shelf-answer-${answerId}`,
    held: false,
  });
}
