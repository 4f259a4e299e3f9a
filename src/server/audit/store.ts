import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { programAtWork } from './program.ts';

export interface Deed {
  actorId: number | null;
  action: string;
  subject: string;
  subjectId: number | null;
  detail?: Record<string, unknown>;
}

/** Records who did what, and by which program where one did it for them. Call it in the transaction of the deed. */
export const record = (db: Database, deed: Deed): Promise<void> => recordAll(db, [deed]);

/** As `record`, of many deeds at once. */
export async function recordAll(db: Database, deeds: readonly Deed[]): Promise<void> {
  const program = programAtWork();
  const by = program === undefined ? {} : { program };
  for (let at = 0; at < deeds.length; at += 1000)
    await db('audit').insert(
      deeds.slice(at, at + 1000).map((deed) => ({
        actor_id: deed.actorId,
        action: deed.action,
        subject: deed.subject,
        subject_id: deed.subjectId,
        detail: deed.detail || program !== undefined ? JSON.stringify({ ...deed.detail, ...by }) : null,
      })),
    );
}

export interface DeedRow {
  atMs: number;
  actor: string | null;
  action: string;
}

/** What was done with an announcement, its sends and their occurrences, the latest first. */
export function deedsOn(db: Database, announcementId: number): Promise<DeedRow[]> {
  return rows(
    db,
    `SELECT ${ms('a.at')} AS atMs, p.name AS actor, a.action FROM audit a LEFT JOIN people p ON p.id = a.actor_id
     WHERE (a.subject = 'announcement' AND a.subject_id = ?)
        OR (a.subject = 'send' AND a.subject_id IN (SELECT s.id FROM sends s WHERE s.announcement_id = ?))
        OR (a.subject = 'occurrence' AND a.subject_id IN (
              SELECT o.id FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE s.announcement_id = ?))
     ORDER BY a.id DESC LIMIT 100`,
    [announcementId, announcementId, announcementId],
  );
}

/** What was done with a board and what stands on it, the latest first. */
export function deedsOnBoard(
  db: Database,
  boardId: number,
): Promise<(DeedRow & { detail: string | null })[]> {
  return rows(
    db,
    `SELECT ${ms('a.at')} AS atMs, p.name AS actor, a.action, a.detail FROM audit a LEFT JOIN people p ON p.id = a.actor_id
     WHERE a.subject = 'board' AND a.subject_id = ? ORDER BY a.id DESC LIMIT 60`,
    [boardId],
  );
}
