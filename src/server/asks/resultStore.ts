import type { Tally } from '../../core/asks/roll.ts';
import { rows, type Database } from '../database/connection.ts';
import { rowsForAll } from '../database/onceForAll.ts';
import { ms } from '../database/instant.ts';
import { keptCounts, sumOf } from '../retention/keptStore.ts';

/** How many answered in each period of so long since an instant, by its place from 0. */
export async function answersOverTime(
  db: Database,
  occurrenceId: number,
  fromMs: number,
  stepMs: number,
): Promise<Map<number, number>> {
  const found = await rowsForAll<{ step: number; n: number }>(
    db,
    `SELECT GREATEST(0, TIMESTAMPDIFF(SECOND, ?, answered_at)) DIV ? AS step, COUNT(*) AS n
     FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL GROUP BY 1`,
    [new Date(fromMs), Math.round(stepMs / 1000), occurrenceId],
  );
  return new Map(found.map((row) => [row.step, row.n]));
}

/** The ask before this one: of the same send, or else of its series. */
export async function askedBefore(
  db: Database,
  occurrence: { id: number; sendId: number; seriesId: number | null; dueMs: number },
): Promise<{ occurrenceId: number; title: string; dueMs: number } | undefined> {
  const [row] = await rows<{ occurrenceId: number; title: string; dueMs: number }>(
    db,
    `SELECT o.id AS occurrenceId, v.title, ${ms('o.due_at')} AS dueMs
     FROM asks a JOIN occurrences o ON o.id = a.occurrence_id JOIN announcement_versions v ON v.id = o.version_id
     WHERE (o.send_id = ? OR v.series_id = ?) AND o.id <> ? AND o.due_at < ?
     ORDER BY o.send_id = ? DESC, o.due_at DESC LIMIT 1`,
    [occurrence.sendId, occurrence.seriesId, occurrence.id, new Date(occurrence.dueMs), occurrence.sendId],
  );
  return row;
}

/** A roll's tally, with how many had answered by an instant. */
export async function tallyAt(
  db: Database,
  occurrenceId: number,
  atMs: number,
): Promise<Tally & { answeredByThen: number }> {
  const [row] = await rows<Tally & { answeredByThen: number }>(
    db,
    `SELECT COUNT(*) AS asked, COUNT(answered_at) AS answered, COUNT(IF(answered_at <= ?, 1, NULL)) AS answeredByThen
     FROM roll WHERE occurrence_id = ?`,
    [new Date(atMs), occurrenceId],
  );
  const kept = (await keptCounts(db, [occurrenceId])).get(occurrenceId)?.answers;
  if (kept) return { ...sumOf(kept), answeredByThen: sumOf(kept).answered };
  return row ?? { asked: 0, answered: 0, answeredByThen: 0 };
}
