import { draftContentSchema, type Content, type EarlierText } from '../../core/content/announcement.ts';
import { excerpt } from '../../core/content/text.ts';
import { planSchema, type Plan } from '../../core/plan/plan.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface Announcement {
  id: number;
  authorId: number;
  authorName: string;
  state: 'draft' | 'committed';
  content: Content;
  plan: Plan;
  revision: number;
  savedById: number;
  savedByName: string;
  savedMs: number;
}

export async function insertAnnouncement(
  db: Database,
  authorId: number,
  content: Content,
  plan: Plan,
  state: Announcement['state'],
): Promise<number> {
  const [id] = await db('announcements').insert({
    author_id: authorId,
    saved_by: authorId,
    state,
    content: JSON.stringify(content),
    plan: JSON.stringify(plan),
  });
  return id ?? 0;
}

const ANNOUNCEMENT = `SELECT n.id, n.author_id AS authorId, a.name AS authorName, n.state, n.content, n.plan, n.revision,
    n.saved_by AS savedById, b.name AS savedByName, ${ms('n.saved_at')} AS savedMs
  FROM announcements n JOIN people a ON a.id = n.author_id JOIN people b ON b.id = n.saved_by`;

type Row = Omit<Announcement, 'content' | 'plan'> & { content: string; plan: string };

const read = (row: Row): Announcement => ({
  ...row,
  content: draftContentSchema.parse(JSON.parse(row.content)),
  plan: planSchema.parse(JSON.parse(row.plan)),
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
  return found.map(read);
}

/** Saves a draft over the revision its author saw; false where it is not that revision any more, or no draft. */
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
    `UPDATE announcements SET content = ?, plan = ?, revision = revision + 1, saved_by = ?, saved_at = NOW(3)
     WHERE id = ? AND revision = ? AND state = 'draft'`,
    [JSON.stringify(content), JSON.stringify(plan), by, id, revision],
  );
  return changed === 1;
}

/** Takes a draft out of drafting; false where it was changed or sent meanwhile. Only one of two callers can succeed. */
export async function commit(db: Database, id: number, revision: number): Promise<boolean> {
  const changed = await change(
    db,
    "UPDATE announcements SET state = 'committed' WHERE id = ? AND revision = ? AND state = 'draft'",
    [id, revision],
  );
  return changed === 1;
}

export async function reopen(db: Database, id: number): Promise<void> {
  await change(db, "UPDATE announcements SET state = 'draft', revision = revision + 1 WHERE id = ?", [id]);
}

export async function deleteDraft(db: Database, id: number): Promise<boolean> {
  const changed = await change(
    db,
    `DELETE n FROM announcements n WHERE n.id = ? AND n.state = 'draft'
       AND NOT EXISTS (SELECT 1 FROM sends s WHERE s.announcement_id = n.id)`,
    [id],
  );
  return changed > 0;
}

/** Keeps a version that will not change again: because it goes out, or because somebody saved over it. */
export async function freezeVersion(
  db: Database,
  announcementId: number,
  authorId: number,
  content: Content,
  kind: 'sent' | 'overwritten',
): Promise<number> {
  const [id] = await db('announcement_versions').insert({
    announcement_id: announcementId,
    author_id: authorId,
    kind,
    title: content.title.trim(),
    byline: content.byline.trim(),
    importance: content.importance,
    document: JSON.stringify(content.document),
    button_label: content.button?.label.trim() ?? null,
    button_url: content.button?.url.trim() ?? null,
    excerpt: excerpt(content.document),
  });
  return id ?? 0;
}

/** Texts of a draft that somebody saved over, the latest first. */
export function earlierTexts(db: Database, announcementId: number): Promise<EarlierText[]> {
  return rows(
    db,
    `SELECT v.id, v.title, v.excerpt, p.name AS author, ${ms('v.created_at')} AS keptMs
     FROM announcement_versions v JOIN people p ON p.id = v.author_id
     WHERE v.announcement_id = ? AND v.kind = 'overwritten' ORDER BY v.id DESC LIMIT 20`,
    [announcementId],
  );
}

export interface Version extends Content {
  id: number;
  announcementId: number;
  authorId: number;
}

export async function versionById(db: Database, id: number): Promise<Version | undefined> {
  const [row] = await rows<{
    id: number;
    announcementId: number;
    authorId: number;
    title: string;
    byline: string;
    importance: Content['importance'];
    document: string;
    buttonLabel: string | null;
    buttonUrl: string | null;
  }>(
    db,
    `SELECT id, announcement_id AS announcementId, author_id AS authorId, title, byline, importance, document,
       button_label AS buttonLabel, button_url AS buttonUrl FROM announcement_versions WHERE id = ?`,
    [id],
  );
  if (!row) return undefined;
  const { buttonLabel, buttonUrl, ...version } = row;
  return {
    ...version,
    document: JSON.parse(row.document) as Content['document'],
    button: buttonLabel !== null && buttonUrl !== null ? { label: buttonLabel, url: buttonUrl } : null,
  };
}
