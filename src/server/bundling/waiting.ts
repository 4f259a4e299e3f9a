import { BUNDLINGS, bundleEnd, mayWaitFor, type Bundleable } from '../../core/bundling/bundling.ts';
import { eventSpan } from '../../core/content/event.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { versionById } from '../announcements/versionStore.ts';
import { rows, type Database } from '../database/connection.ts';
import { organisation, readQuiet, type QuietColumns } from '../people/store.ts';
import { ms } from '../database/instant.ts';
import type { Occurrence } from '../sends/occurrenceStore.ts';
import { bundlingOfAll, bundlingSql, isAnybodyBundled } from './store.ts';

/** A piece of SQL whose bindings may be instants. */
export interface WaitingSql {
  sql: string;
  bindings: (string | number | Date | null)[];
}

/** What of an occurrence decides whether it may wait to be bundled. */
export async function bundleable(db: Database, occurrence: Occurrence): Promise<Bundleable> {
  const version =
    occurrence.importance === 'routine' ? await versionById(db, occurrence.versionId) : undefined;
  return {
    importance: occurrence.importance,
    test: occurrence.kind === 'test',
    chase: occurrence.chases !== null,
    deadlineMs: occurrence.deadlineMs,
    eventMs: version?.event ? eventSpan(version.event).startMs : null,
  };
}

/**
 * SQL over `people p` and their delivery `i` to the inbox for the instant at which its mail and push go together with
 * others; null for whoever gets it as it comes. Null itself where that is everybody.
 *
 * @param range the deliveries it is asked of, by person
 */
export async function waitingSql(
  db: Database,
  occurrence: Occurrence,
  range: { after: number; to: number },
  now: AudienceContext,
): Promise<WaitingSql | null> {
  if (occurrence.importance !== 'routine') return null;
  const ofAll = await bundlingOfAll(db, now);
  if (!(await isAnybodyBundled(db, ofAll))) return null;
  const what = await bundleable(db, occurrence);
  const quietOfAll = (await organisation(db))?.quiet ?? null;
  const dues = await rows<QuietColumns & { zone: string; dueMs: number }>(
    db,
    `SELECT DISTINCT p.zone, p.quiet_from AS quietFrom, p.quiet_to AS quietTo, ${ms('i.due_at')} AS dueMs FROM deliveries i JOIN people p ON p.id = i.person_id
     WHERE i.occurrence_id = ? AND i.method = 'inbox' AND i.person_id > ? AND i.person_id <= ?`,
    [occurrence.id, range.after, range.to],
  );
  const arms = BUNDLINGS.map((bundling) => ({
    bundling,
    ends: dues
      .map((due) => ({
        ...due,
        endMs: bundleEnd(due.dueMs, due.zone, bundling, readQuiet(due) ?? quietOfAll),
      }))
      .filter(({ dueMs, endMs }) => endMs > dueMs && mayWaitFor(what, endMs)),
  })).filter((arm) => arm.ends.length > 0);
  if (arms.length === 0) return null;
  const how = bundlingSql(ofAll);
  return {
    sql: `CASE ${how.sql} ${arms
      .map(
        ({ ends }) =>
          `WHEN ? THEN CASE ${ends.map(() => 'WHEN p.zone = ? AND p.quiet_from <=> ? AND p.quiet_to <=> ? AND i.due_at = ? THEN CAST(? AS DATETIME(3))').join(' ')} END`,
      )
      .join(' ')} END`,
    bindings: [
      ...how.bindings,
      ...arms.flatMap(({ bundling, ends }) => [
        bundling,
        ...ends.flatMap(({ zone, quietFrom, quietTo, dueMs, endMs }) => [
          zone,
          quietFrom,
          quietTo,
          new Date(dueMs),
          new Date(endMs),
        ]),
      ]),
    ],
  };
}
