import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { readContent, readPlan, storedContent, storedPlan } from '../../core/stored.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { insertMany, insertOne } from '../database/insertMany.ts';
import { ms } from '../database/instant.ts';
import { Problem } from '../problem.ts';

export interface Announcement {
  id: number;
  authorId: number;
  authorName: string;
  state: 'draft' | 'committed' | 'template';
  review: 'none' | 'for review' | 'cleared';
  reviewById: number | null;
  reviewByName: string | null;
  reviewMs: number | null;
  /** Who is asked by name to clear it; null where it is whoever may. */
  reviewAskedId: number | null;
  reviewAskedName: string | null;
  /** The recurring send this draft changes, or the occurrence that has gone and that it corrects. */
  revises: number | null;
  corrects: number | null;
  content: Content;
  plan: Plan;
  revision: number;
  savedById: number;
  savedByName: string;
  savedMs: number;
}

const announcementRow = (
  authorId: number,
  content: Content,
  plan: Plan,
  state: Announcement['state'],
): Record<string, unknown> => ({
  author_id: authorId,
  saved_by: authorId,
  state,
  content: storedContent(content),
  plan: storedPlan(plan),
});

export const insertAnnouncement = (
  db: Database,
  ...of: Parameters<typeof announcementRow>
): Promise<number> => insertOne(db, 'announcements', announcementRow(...of));

/** Writes announcements that are sent as they are written; gives their ids, in their order. */
export const insertCommitted = (
  db: Database,
  authorId: number,
  made: readonly { content: Content; plan: Plan }[],
): Promise<number[]> =>
  insertMany(
    db,
    'announcements',
    made.map(({ content, plan }) => announcementRow(authorId, content, plan, 'committed')),
  );

const ANNOUNCEMENT = `SELECT n.id, n.author_id AS authorId, a.name AS authorName, n.state, n.review, n.review_by AS reviewById, c.name AS reviewByName, ${ms('n.review_at')} AS reviewMs, n.review_asked AS reviewAskedId, e.name AS reviewAskedName, n.revises, n.corrects, n.content, n.plan, n.revision,
    n.saved_by AS savedById, b.name AS savedByName, ${ms('n.saved_at')} AS savedMs
  FROM announcements n JOIN people a ON a.id = n.author_id JOIN people b ON b.id = n.saved_by
    LEFT JOIN people c ON c.id = n.review_by LEFT JOIN people e ON e.id = n.review_asked`;

type Row = Omit<Announcement, 'content' | 'plan'> & { content: string; plan: string };

/** @throws a 409 problem where what is stored cannot be read; it stays as it is */
function read(row: Row): Announcement {
  try {
    return { ...row, content: readContent(row.content), plan: readPlan(row.plan) };
  } catch {
    throw new Problem(
      409,
      'This announcement is kept in a form that this version of Clear Bell cannot read. Nothing of it is lost; tell whoever runs the installation.',
    );
  }
}

/** Those of a list that can be read: one that cannot does not take the others along. */
const readAll = (found: readonly Row[]): Announcement[] =>
  found.flatMap((row) => {
    try {
      return [read(row)];
    } catch {
      return [];
    }
  });

export async function announcementById(db: Database, id: number): Promise<Announcement | undefined> {
  const [row] = await rows<Row>(db, `${ANNOUNCEMENT} WHERE n.id = ?`, [id]);
  return row && read(row);
}

/** Drafts, the last saved first: one author's, or all. */
export async function drafts(db: Database, authorId: number | null, most: number): Promise<Announcement[]> {
  const found = await rows<Row>(
    db,
    `${ANNOUNCEMENT} WHERE n.state = 'draft' AND (? IS NULL OR n.author_id = ?) ORDER BY n.saved_at DESC, n.id DESC LIMIT ?`,
    [authorId, authorId, most],
  );
  return readAll(found);
}

const ANNOUNCEMENTS_PAGE = 50;

/** A page of announcements, the newest first: one author's, or all. `next` is the id before which the page after it begins. */
export async function announcementsPage(
  db: Database,
  wanted: { authorId: number | null; state: Announcement['state'] | null; before: number | null },
): Promise<{ found: Announcement[]; next: number | null }> {
  const found = await rows<Row>(
    db,
    `${ANNOUNCEMENT} WHERE (? IS NULL OR n.author_id = ?) AND (? IS NULL OR n.state = ?) AND (? IS NULL OR n.id < ?)
     ORDER BY n.id DESC LIMIT ?`,
    [
      wanted.authorId,
      wanted.authorId,
      wanted.state,
      wanted.state,
      wanted.before,
      wanted.before,
      ANNOUNCEMENTS_PAGE + 1,
    ],
  );
  const page = found.slice(0, ANNOUNCEMENTS_PAGE);
  const last = found.length > ANNOUNCEMENTS_PAGE ? page.at(-1) : undefined;
  return { found: readAll(page), next: last?.id ?? null };
}

/** Templates, by title. */
export async function templates(db: Database, most: number): Promise<Announcement[]> {
  const found = await rows<Row>(
    db,
    `${ANNOUNCEMENT} WHERE n.state = 'template' ORDER BY JSON_VALUE(n.content, '$.title'), n.id LIMIT ?`,
    [most],
  );
  return readAll(found);
}

/** Drafts that wait for a second person, the longest waiting first. */
export async function forReview(db: Database, most: number): Promise<Announcement[]> {
  const found = await rows<Row>(
    db,
    `${ANNOUNCEMENT} WHERE n.state = 'draft' AND n.review = 'for review' ORDER BY n.review_at, n.id LIMIT ?`,
    [most],
  );
  return readAll(found);
}

/** Hands a draft on for review, clears it, or takes that back; false where it was changed meanwhile. */
export async function setReview(
  db: Database,
  id: number,
  revision: number,
  from: Announcement['review'],
  to: Announcement['review'],
  by: number,
  asked: number | null,
): Promise<boolean> {
  if (from === to && asked === null) return false;
  const changed = await change(
    db,
    `UPDATE announcements SET review = ?, review_by = ?, review_at = NOW(3), review_asked = ?
     WHERE id = ? AND revision = ? AND state = 'draft' AND review = ?`,
    [to, by, asked, id, revision, from],
  );
  return changed === 1;
}

/**
 * Whether somebody has to do with a draft besides its author: they saved a text of it, commented on it or are called in a
 * comment, looked at it for clearance or are asked to, or it is shared with them.
 */
export async function isInvolved(db: Database, id: number, personId: number): Promise<boolean> {
  const found = await rows(
    db,
    `(SELECT 1 FROM announcements WHERE id = ? AND (saved_by = ? OR review_by = ? OR (review_asked = ? AND review = 'for review')))
     UNION ALL (SELECT 1 FROM draft_readers WHERE announcement_id = ? AND person_id = ?)
     UNION ALL (SELECT 1 FROM announcement_versions WHERE announcement_id = ? AND author_id = ? LIMIT 1)
     UNION ALL (SELECT 1 FROM comments WHERE announcement_id = ? AND (author_id = ? OR JSON_CONTAINS(mentions, ?)) LIMIT 1)`,
    [id, personId, personId, personId, id, personId, id, personId, id, personId, String(personId)],
  );
  return found.length > 0;
}

/**
 * The texts in which uploads may be named that somebody brings back into a draft: those kept of it, and what they wrote
 * themselves lately; as one text to look for keys in.
 */
export async function uploadsNamedBefore(db: Database, id: number, personId: number): Promise<string> {
  const found = await rows<{ text: string }>(
    db,
    `(SELECT body AS text FROM announcement_versions WHERE announcement_id = ? AND INSTR(body, '"key"') > 0 ORDER BY id DESC LIMIT 50)
     UNION ALL (SELECT content FROM announcements WHERE saved_by = ? AND INSTR(content, '"key"') > 0 ORDER BY id DESC LIMIT 50)`,
    [id, personId],
  );
  return found.map((row) => row.text).join(' ');
}

/** Those who saved a text of this draft at any time, its author among them. */
export async function writersOf(db: Database, id: number): Promise<number[]> {
  const found = await rows<{ personId: number }>(
    db,
    `SELECT author_id AS personId FROM announcements WHERE id = ? UNION SELECT saved_by FROM announcements WHERE id = ?
     UNION SELECT author_id FROM announcement_versions WHERE announcement_id = ?`,
    [id, id, id],
  );
  return found.map((row) => row.personId);
}

/**
 * Saves a draft over the revision its author saw; false where it is not that revision any more, or no draft. One that was cleared
 * waits to be cleared again; one that waits goes on waiting, so that whoever is to look at it still can.
 */
export async function saveRevision(
  db: Database,
  id: number,
  revision: number,
  by: number,
  content: Content,
  plan: Plan,
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE announcements SET content = ?, plan = ?, revision = revision + 1, saved_by = ?, saved_at = NOW(3),
       review_by = IF(review = 'cleared', ?, review_by), review = IF(review = 'cleared', 'for review', review)
     WHERE id = ? AND revision = ? AND state IN ('draft', 'template')`,
    [storedContent(content), storedPlan(plan), by, by, id, revision],
  );
  return changed === 1;
}

/**
 * Takes a draft out of drafting; false where it was changed, sent, or returned from clearance meanwhile. Of those who do
 * something with it at once, one succeeds.
 */
export async function commit(
  db: Database,
  id: number,
  revision: number,
  review: Announcement['review'],
): Promise<boolean> {
  const changed = await change(
    db,
    "UPDATE announcements SET state = 'committed', revises = NULL, corrects = NULL WHERE id = ? AND revision = ? AND review = ? AND state = 'draft'",
    [id, revision, review],
  );
  return changed === 1;
}

/** Makes a draft again of what was sent: to send it anew, to change what recurs, or to correct what has gone. */
export async function reopen(
  db: Database,
  id: number,
  why: { revises: number | null; corrects: number | null } = { revises: null, corrects: null },
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE announcements SET state = 'draft', revision = revision + 1, review = 'none', revises = ?, corrects = ?
     WHERE id = ? AND state = 'committed'`,
    [why.revises, why.corrects, id],
  );
  return changed === 1;
}

/** Puts a text in the place of what an announcement holds. */
export async function setContent(db: Database, id: number, content: Content): Promise<void> {
  await change(db, 'UPDATE announcements SET content = ? WHERE id = ?', [storedContent(content), id]);
}

/** Leaves a change or correction undone: the announcement is again as it was sent. */
export async function abandon(db: Database, id: number, content: Content, plan: Plan): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE announcements SET state = 'committed', revises = NULL, corrects = NULL, content = ?, plan = ?,
       revision = revision + 1
     WHERE id = ? AND state = 'draft' AND (revises IS NOT NULL OR corrects IS NOT NULL)`,
    [storedContent(content), storedPlan(plan), id],
  );
  return changed === 1;
}

export async function deleteDraft(db: Database, id: number): Promise<boolean> {
  const changed = await change(
    db,
    `DELETE n FROM announcements n WHERE n.id = ? AND n.state IN ('draft', 'template')
       AND NOT EXISTS (SELECT 1 FROM sends s WHERE s.announcement_id = n.id)`,
    [id],
  );
  return changed > 0;
}
