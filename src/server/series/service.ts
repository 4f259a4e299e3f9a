import { EMPTY_CONTENT, type Content } from '../../core/content/announcement.ts';
import { emptySection } from '../../core/content/section.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import type { Issue, Series, SeriesFrame } from '../../core/series/series.ts';
import type { SeriesIndex } from '../../core/series/seriesIndex.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { announcementById, insertAnnouncement } from '../announcements/store.ts';
import { record } from '../audit/store.ts';
import { boardsSeenBy } from '../boards/service.ts';
import { type Database, isDuplicate, transact } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import { allSeries, insertSeries, issuesFor, issuesOf, latestIn, seriesById, updateSeries } from './store.ts';

/** Every series, by name. */
export async function listSeries(db: Database, actor: Actor): Promise<Series[]> {
  requireDesk(actor);
  return allSeries(db);
}

/** A series with its issues, the latest first; of one category, or all. */
export async function openSeries(
  db: Database,
  actor: Actor,
  id: number,
  category: string | null,
): Promise<{ series: Series; issues: Issue[] }> {
  requireDesk(actor);
  const [series, issues] = await Promise.all([seriesById(db, id), issuesOf(db, id, category, 500)]);
  if (!series) throw notFound('series');
  return { series, issues };
}

const nameTaken = (error: unknown): never => {
  if (isDuplicate(error))
    throw new Problem(422, 'A series has this name already.', {
      errors: [{ field: 'name', detail: 'A series has this name already. Choose another.' }],
    });
  throw error;
};

export async function makeSeries(db: Database, actor: Actor, frame: SeriesFrame): Promise<number> {
  requireDesk(actor);
  await requireOwnUploads(db, actor, frame);
  return transact(db, async (trx) => {
    const id = await insertSeries(trx, frame).catch(nameTaken);
    await record(trx, { actorId: actor.id, action: 'make', subject: 'series', subjectId: id });
    return id;
  });
}

/** Changes the frame of a series. What has gone keeps its title; the banner over it follows. */
export async function changeSeries(
  db: Database,
  actor: Actor,
  id: number,
  frame: SeriesFrame,
): Promise<void> {
  requireDesk(actor);
  const before = await seriesById(db, id);
  if (!before) throw notFound('series');
  await requireOwnUploads(db, actor, frame, JSON.stringify(before.banner));
  await transact(db, async (trx) => {
    await updateSeries(trx, id, frame).catch(nameTaken);
    await record(trx, { actorId: actor.id, action: 'change', subject: 'series', subjectId: id });
  });
}

/**
 * Begins the next issue of a series from the frame of the last one: its heading, byline, plan and the headings and
 * accents of its sections, without their texts. The number is given when it goes out.
 */
export async function nextIssue(db: Database, actor: Actor, seriesId: number): Promise<number> {
  requireDesk(actor);
  const series = await seriesById(db, seriesId);
  if (!series) throw notFound('series');
  const lastId = await latestIn(db, seriesId);
  const last = lastId === undefined ? undefined : await announcementById(db, lastId);
  const content: Content = {
    ...EMPTY_CONTENT,
    title: series.heading,
    byline: series.byline,
    importance: last?.content.importance ?? 'routine',
    sections: last
      ? last.content.sections.map(({ id, heading, accent }) => ({ ...emptySection(id), heading, accent }))
      : EMPTY_CONTENT.sections,
    issue: { seriesId, category: last?.content.issue?.category ?? series.categories[0] ?? '' },
  };
  // The plan comes along, but never its time: that of the last issue has passed.
  const plan = last ? { ...last.plan, timing: EMPTY_PLAN.timing } : EMPTY_PLAN;
  return insertAnnouncement(db, actor.id, content, plan, 'draft');
}

/** The index of a series for whoever reads it: the issues that came to them or stand on a board they see. */
export async function seriesIndex(db: Database, actor: Actor, id: number): Promise<SeriesIndex> {
  const boards = (await boardsSeenBy(db, actor)).map((board) => board.id);
  const [series, issues] = await Promise.all([seriesById(db, id), issuesFor(db, id, actor.id, boards)]);
  // A series none of whose issues is theirs is none that they know of.
  if (!series || (issues.length === 0 && actor.role === 'member')) throw notFound('series');
  return {
    id,
    name: series.name,
    categories: series.categories,
    issues: issues.map(({ postId, ...issue }) => ({
      ...issue,
      path: postId === null ? `/for-me/${issue.occurrenceId}` : `/posts/${postId}`,
    })),
  };
}
