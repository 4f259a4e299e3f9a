import type { AtDesk } from '../../core/desk/sharing.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** Whoever's page was heard of within so long still has the draft open, in seconds. */
const OPEN_FOR_S = 60;

/** Notes that somebody has a draft open, and gives the others who have. */
export async function noteOpen(db: Database, announcementId: number, personId: number): Promise<AtDesk[]> {
  await change(
    db,
    `INSERT INTO draft_openings (announcement_id, person_id, seen_at) VALUES (?, ?, NOW(3))
     ON DUPLICATE KEY UPDATE seen_at = NOW(3)`,
    [announcementId, personId],
  );
  return rows(
    db,
    `SELECT p.id, p.name FROM draft_openings o JOIN people p ON p.id = o.person_id
     WHERE o.announcement_id = ? AND o.person_id <> ? AND o.seen_at > NOW(3) - INTERVAL ${OPEN_FOR_S} SECOND
     ORDER BY p.name, p.id LIMIT 20`,
    [announcementId, personId],
  );
}

export const noteClosed = (db: Database, announcementId: number, personId: number): Promise<number> =>
  change(db, 'DELETE FROM draft_openings WHERE announcement_id = ? AND person_id = ?', [
    announcementId,
    personId,
  ]);

/** With whom a draft is shared for comments, by name. */
export const readersOfDraft = (db: Database, announcementId: number): Promise<AtDesk[]> =>
  rows(
    db,
    `SELECT p.id, p.name FROM draft_readers r JOIN people p ON p.id = r.person_id
     WHERE r.announcement_id = ? ORDER BY p.name, p.id`,
    [announcementId],
  );

/** Shares a draft with somebody; false where it was already. */
export async function addReader(
  db: Database,
  announcementId: number,
  personId: number,
  by: number,
): Promise<boolean> {
  const changed = await change(
    db,
    `INSERT INTO draft_readers (announcement_id, person_id, shared_by) VALUES (?, ?, ?)
     ON DUPLICATE KEY UPDATE draft_readers.person_id = draft_readers.person_id`,
    [announcementId, personId, by],
  );
  return changed === 1;
}

export const removeReader = (db: Database, announcementId: number, personId: number): Promise<number> =>
  change(db, 'DELETE FROM draft_readers WHERE announcement_id = ? AND person_id = ?', [
    announcementId,
    personId,
  ]);

/** Those who work at the desk, by name. */
export const peopleAtDesk = (db: Database, most: number): Promise<AtDesk[]> =>
  rows(
    db,
    `SELECT id, name FROM people WHERE role <> 'member' AND standing <> 'left' AND linked_to IS NULL
     ORDER BY name, id LIMIT ?`,
    [most],
  );
