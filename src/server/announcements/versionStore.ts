import type { Content, EarlierText, VersionKind } from '../../core/content/announcement.ts';
import { excerpt } from '../../core/content/text.ts';
import { readBody, storedBody } from '../../core/stored.ts';
import { rows, type Database } from '../database/connection.ts';
import { insertMany } from '../database/insertMany.ts';
import { ms } from '../database/instant.ts';
import { onceForAll } from '../database/onceForAll.ts';

/** Keeps a version that will not change again: because it goes out, or because somebody saved over it. */
export async function freezeVersion(
  db: Database,
  announcementId: number,
  authorId: number,
  content: Content,
  kind: VersionKind,
  number: number | null = null,
): Promise<number> {
  const [id] = await freezeVersions(db, authorId, kind, [{ announcementId, content, number }]);
  if (id === undefined) throw new Error('No version was written');
  return id;
}

/** Keeps texts of several announcements as they are; gives the ids of the versions, in their order. */
export const freezeVersions = (
  db: Database,
  authorId: number,
  kind: VersionKind,
  of: readonly { announcementId: number; content: Content; number: number | null }[],
): Promise<number[]> =>
  insertMany(
    db,
    'announcement_versions',
    of.map(({ announcementId, content, number }) => ({
      announcement_id: announcementId,
      author_id: authorId,
      kind,
      title: content.title.trim(),
      byline: content.byline.trim(),
      importance: content.importance,
      body: storedBody({
        sections: content.sections,
        button: content.button && { label: content.button.label.trim(), url: content.button.url.trim() },
        event: content.event,
      }),
      series_id: content.issue?.seriesId ?? null,
      category: content.issue?.category ?? '',
      number,
      excerpt: excerpt(content.sections),
    })),
  );

/** The texts of an announcement that were kept, the latest first. */
export function earlierTexts(db: Database, announcementId: number): Promise<EarlierText[]> {
  return rows(
    db,
    `SELECT v.id, v.kind, v.title, v.excerpt, p.name AS author, ${ms('v.created_at')} AS keptMs
     FROM announcement_versions v JOIN people p ON p.id = v.author_id
     WHERE v.announcement_id = ? ORDER BY v.id DESC LIMIT 40`,
    [announcementId],
  );
}

export interface Version extends Content {
  id: number;
  announcementId: number;
  authorId: number;
  excerpt: string;
  /** The number of the issue, in a series. */
  number: number | null;
}

/** What a version says, without what is known of the version itself. */
export const contentOf = ({
  title,
  byline,
  importance,
  sections,
  button,
  event,
  issue,
}: Content): Content => ({
  title,
  byline,
  importance,
  sections,
  button,
  event,
  issue,
});

/** Some versions, by their ids. */
export async function versionsByIds(db: Database, ids: readonly number[]): Promise<Map<number, Version>> {
  if (ids.length === 0) return new Map();
  const found = await rows<{
    id: number;
    announcementId: number;
    authorId: number;
    title: string;
    byline: string;
    importance: Content['importance'];
    body: string;
    excerpt: string;
    seriesId: number | null;
    category: string;
    number: number | null;
  }>(
    db,
    `SELECT id, announcement_id AS announcementId, author_id AS authorId, title, byline, importance, body, excerpt,
       series_id AS seriesId, category, number FROM announcement_versions WHERE id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(
    found.map(({ body, seriesId, category, ...version }) => [
      version.id,
      { ...version, ...readBody(body), issue: seriesId === null ? null : { seriesId, category } },
    ]),
  );
}

/** One version; the same for all who ask for it at this moment. */
export const versionById = (db: Database, id: number): Promise<Version | undefined> =>
  onceForAll(db, ['version', id], async () => (await versionsByIds(db, [id])).get(id));

/** When a text of this announcement was last kept, in milliseconds since 1970, or null. */
export async function lastKept(db: Database, announcementId: number): Promise<number | null> {
  const [row] = await rows<{ keptMs: number | null }>(
    db,
    `SELECT ${ms('MAX(created_at)')} AS keptMs FROM announcement_versions WHERE announcement_id = ?`,
    [announcementId],
  );
  return row?.keptMs ?? null;
}
