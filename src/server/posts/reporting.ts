import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { requireOnBoard, visibleBoard, type BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, orNone, Problem } from '../problem.ts';
import { insertReport, reportById, closeReports } from './reportStore.ts';
import { visiblePost } from './opening.ts';

/** Reports a post to whoever moderates its board. Reporting it again changes nothing. */
export async function reportPost(db: Database, actor: Actor, id: number, reason: string): Promise<void> {
  const { board } = await visiblePost(db, actor, id);
  await reportTo(db, actor, board, { subject: 'post', subjectId: id }, reason);
}

/** Reports something on a board to those who moderate it. */
export async function reportTo(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  what: { subject: 'post' | 'reply'; subjectId: number },
  reason: string,
): Promise<void> {
  await transact(db, async (trx) => {
    const { subject, subjectId } = what;
    const report = await insertReport(trx, {
      subject,
      subjectId,
      boardId: board.id,
      reporterId: actor.id,
      reason,
    });
    if (report === null) return;
    await record(trx, {
      actorId: actor.id,
      action: `report ${subject}`,
      subject: 'board',
      subjectId: board.id,
      detail: { [subject]: subjectId },
    });
    await emit(trx, 'post.reported', { report, board: board.id });
  });
}

/** Closes a report without doing anything to what was reported. */
export async function letReportStand(db: Database, actor: Actor, id: number): Promise<void> {
  const report = await reportById(db, id);
  const board = report && (await orNone(visibleBoard(db, actor, report.boardId)));
  if (!report || !board) throw notFound('report');
  requireOnBoard(actor, 'moderate', board);
  if (report.authorId === actor.id)
    throw new Problem(403, 'What you wrote yourself was reported: somebody else decides on it.');
  await transact(db, async (trx) => {
    if ((await closeReports(trx, actor.id, { id })) === 0) return;
    await record(trx, {
      actorId: actor.id,
      action: 'let stand',
      subject: 'board',
      subjectId: board.id,
      detail: { report: id },
    });
    await emit(trx, 'report.dismissed', { report: id, board: board.id });
  });
}
