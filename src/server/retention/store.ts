import { KEPT, KEPT_KINDS, isKeptKind, type Kept, type KeptKind } from '../../core/retention/kinds.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** How long each kind is kept: as chosen, or as usual. */
export async function keptLong(db: Database): Promise<Kept[]> {
  const found = await rows<Omit<Kept, 'kind'> & { kind: string }>(
    db,
    `SELECT r.kind, r.days, IF(r.from_at > NOW(3), r.days_before, r.days) AS daysNow,
       IF(r.from_at > NOW(3), ${ms('r.from_at')}, NULL) AS fromMs, p.shown_name AS changedBy, ${ms('r.changed_at')} AS changedMs
     FROM retention r LEFT JOIN people p ON p.id = r.changed_by`,
  );
  const chosen = new Map(
    found.flatMap(({ kind, ...row }) => (isKeptKind(kind) ? [[kind, { kind, ...row }] as const] : [])),
  );
  return KEPT_KINDS.map(
    (kind) =>
      chosen.get(kind) ?? {
        kind,
        days: KEPT[kind].usualDays,
        daysNow: KEPT[kind].usualDays,
        fromMs: null,
        changedBy: null,
        changedMs: null,
      },
  );
}

/**
 * Notes for how long a kind is kept.
 *
 * @param waitHours for how long what held before still holds
 */
export async function chooseKept(
  db: Database,
  choice: { kind: KeptKind; days: number | null; before: number | null; waitHours: number; by: number },
): Promise<void> {
  await change(
    db,
    `INSERT INTO retention (kind, days, days_before, from_at, changed_by) VALUES (?, ?, ?, NOW(3) + INTERVAL ? HOUR, ?)
     ON DUPLICATE KEY UPDATE days = VALUES(days), days_before = VALUES(days_before), from_at = VALUES(from_at),
       changed_by = VALUES(changed_by), changed_at = NOW(3)`,
    [choice.kind, choice.days, choice.before, choice.waitHours, choice.by],
  );
}

/** Holds the choice of a kind until the transaction ends: of two at once one goes after the other. */
export async function holdKept(db: Database): Promise<void> {
  await rows(db, 'SELECT id FROM organisation WHERE id = 1 FOR UPDATE');
}

/** What is older than so many days, kind by kind, as conditions over its table; `?` stands for the days. */
const OLD: Readonly<Record<KeptKind, { from: string; old: string; at: string; all: string }>> = {
  deliveries: {
    from: 'deliveries d JOIN occurrences o ON o.id = d.occurrence_id',
    old: `o.state IN ('sent', 'recalled', 'failed') AND o.ends_at < NOW(3) - INTERVAL ? DAY
      AND NOT EXISTS (SELECT 1 FROM asks a WHERE a.occurrence_id IN (o.id, o.chases) AND a.closed_at IS NULL)
      AND NOT EXISTS (SELECT 1 FROM deliveries w WHERE w.occurrence_id = o.id AND w.state IN ('waiting', 'sending', 'resting'))
      AND NOT EXISTS (SELECT 1 FROM hook_deliveries x WHERE x.occurrence_id = o.id AND x.state IN ('waiting', 'sending'))`,
    at: 'o.ends_at',
    all: 'SELECT COUNT(*) AS n FROM deliveries',
  },
  answers: {
    from: 'roll r JOIN asks a ON a.occurrence_id = r.occurrence_id JOIN occurrences o ON o.id = a.occurrence_id',
    // What nobody ever closes is as old as its going-out; what closes by itself, or asks whoever joins, is still under way.
    old: `((a.settled_at IS NOT NULL AND a.closed_at < NOW(3) - INTERVAL ? DAY) OR (a.closed_at IS NULL AND a.closes_at IS NULL
      AND NOT a.joiners AND o.state IN ('sent', 'recalled') AND COALESCE(o.deadline_at, o.ends_at) < NOW(3) - INTERVAL ? DAY))`,
    at: 'COALESCE(a.closed_at, o.deadline_at, o.ends_at)',
    all: 'SELECT COUNT(*) AS n FROM roll',
  },
  posts: {
    from: 'posts q',
    old: `q.occurrence_id IS NULL AND q.posted_at < NOW(3) - INTERVAL ? DAY AND q.pinned_at IS NULL AND q.state <> 'held'
      AND NOT EXISTS (SELECT 1 FROM replies y WHERE y.post_id = q.id AND y.written_at >= NOW(3) - INTERVAL ? DAY)
      AND NOT EXISTS (SELECT 1 FROM posts c WHERE c.origin_id = q.id)
      AND NOT EXISTS (SELECT 1 FROM thanks t WHERE t.post_id = q.id)
      AND NOT EXISTS (SELECT 1 FROM reports p WHERE p.settled_at IS NULL AND (p.subject = 'post' AND p.subject_id = q.id
        OR p.subject = 'reply' AND p.subject_id IN (SELECT y.id FROM replies y WHERE y.post_id = q.id)))`,
    at: 'q.posted_at',
    all: 'SELECT COUNT(*) AS n FROM posts WHERE occurrence_id IS NULL',
  },
  drafts: {
    from: 'announcements n',
    old: `n.state = 'draft' AND n.saved_at < NOW(3) - INTERVAL ? DAY
      AND NOT EXISTS (SELECT 1 FROM sends s WHERE s.announcement_id = n.id)
      AND NOT EXISTS (SELECT 1 FROM comments c WHERE c.announcement_id = n.id AND c.written_at >= NOW(3) - INTERVAL ? DAY)`,
    at: 'n.saved_at',
    all: "SELECT COUNT(*) AS n FROM announcements WHERE state = 'draft'",
  },
  runs: {
    from: 'automation_runs r',
    old: `r.ended_at < NOW(3) - INTERVAL ? DAY
      AND (r.said = 0 OR EXISTS (SELECT 1 FROM automation_sayings y WHERE y.run_id = r.id))`,
    at: 'r.ended_at',
    all: 'SELECT COUNT(*) AS n FROM automation_runs',
  },
  calls: {
    from: 'hook_calls c',
    old: 'c.at < NOW(3) - INTERVAL ? DAY',
    at: 'c.at',
    all: 'SELECT COUNT(*) AS n FROM hook_calls',
  },
  handovers: {
    from: 'hook_deliveries h',
    // What a going-out came to at an outside place is kept as long as its other deliveries.
    old: 'h.ended_at < NOW(3) - INTERVAL ? DAY AND h.occurrence_id IS NULL',
    at: 'h.ended_at',
    all: 'SELECT COUNT(*) AS n FROM hook_deliveries WHERE occurrence_id IS NULL',
  },
  audit: {
    from: 'audit u',
    old: 'u.at < NOW(3) - INTERVAL ? DAY',
    at: 'u.at',
    all: 'SELECT COUNT(*) AS n FROM audit',
  },
};

/** The days for every place of them in a kind's condition. */
const daysIn = (kind: KeptKind, days: number): number[] =>
  Array<number>(OLD[kind].old.split('?').length - 1).fill(days);

/** How many of a kind there are, how many of them are older than so many days, and of when the oldest is. */
export async function olderThan(
  db: Database,
  kind: KeptKind,
  days: number | null,
): Promise<{ n: number; oldestMs: number | null; of: number }> {
  const { from, old, at, all } = OLD[kind];
  const [whole] = await rows<{ n: number }>(db, all);
  const of = whole?.n ?? 0;
  if (days === null) return { n: 0, oldestMs: null, of };
  const [found] = await rows<{ n: number; oldestMs: number | null }>(
    db,
    `SELECT COUNT(*) AS n, ${ms(`MIN(${at})`)} AS oldestMs FROM ${from} WHERE ${old}`,
    daysIn(kind, days),
  );
  return { n: found?.n ?? 0, oldestMs: found?.oldestMs ?? null, of };
}

/** Going-outs whose deliveries are older than so many days, or of which some are left; the oldest first, so many. */
export const occurrencesToForget = (db: Database, days: number, most: number): Promise<{ id: number }[]> =>
  rows(
    db,
    `SELECT o.id FROM occurrences o WHERE ${OLD.deliveries.old}
       AND (EXISTS (SELECT 1 FROM deliveries e WHERE e.occurrence_id = o.id)
         OR EXISTS (SELECT 1 FROM hook_deliveries g WHERE g.occurrence_id = o.id)) ORDER BY o.ends_at LIMIT ?`,
    [...daysIn('deliveries', days), most],
  );

/** Asks that closed more than so many days ago and whose answers are known yet, so many. */
export const asksToForget = (db: Database, days: number, most: number): Promise<{ id: number }[]> =>
  rows(
    db,
    `SELECT o.id FROM asks a JOIN occurrences o ON o.id = a.occurrence_id WHERE ${OLD.answers.old}
       AND EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = o.id) ORDER BY ${OLD.answers.at} LIMIT ?`,
    [...daysIn('answers', days), most],
  );

/** Posts that were written more than so many days ago and that nothing holds back, so many. */
export const postsToForget = (
  db: Database,
  days: number,
  most: number,
): Promise<{ id: number; announcementId: number }[]> =>
  rows(
    db,
    `SELECT q.id, v.announcement_id AS announcementId FROM posts q JOIN announcement_versions v ON v.id = q.version_id
     WHERE ${OLD.posts.old} ORDER BY q.posted_at LIMIT ?`,
    [...daysIn('posts', days), most],
  );

/** Whether a post can still be forgotten; nobody changes it until the transaction ends. */
export async function postIsOld(db: Database, id: number, days: number): Promise<boolean> {
  const found = await rows(db, `SELECT q.id FROM posts q WHERE q.id = ? AND ${OLD.posts.old} FOR UPDATE`, [
    id,
    ...daysIn('posts', days),
  ]);
  return found.length > 0;
}

/** Drafts that were last saved more than so many days ago, so many. */
export const draftsToForget = (db: Database, days: number, most: number): Promise<{ id: number }[]> =>
  rows(db, `SELECT n.id FROM announcements n WHERE ${OLD.drafts.old} ORDER BY n.saved_at LIMIT ?`, [
    ...daysIn('drafts', days),
    most,
  ]);

/** Whether a draft can still be forgotten; nobody saves it until the transaction ends. */
export async function draftIsOld(db: Database, id: number, days: number): Promise<boolean> {
  const found = await rows(
    db,
    `SELECT n.id FROM announcements n WHERE n.id = ? AND ${OLD.drafts.old} FOR UPDATE`,
    [id, ...daysIn('drafts', days)],
  );
  return found.length > 0;
}

/** Forgets what was said and kept back in runs that ended more than so many days ago, and altogether those that said nothing. */
export async function forgetRuns(db: Database, days: number, most: number): Promise<number> {
  const told = await change(
    db,
    `DELETE FROM automation_sayings WHERE run_id IN (SELECT id FROM (
       SELECT r.id FROM automation_runs r WHERE r.said > 0 AND ${OLD.runs.old} LIMIT ?) x)`,
    [days, most],
  );
  const silent = await change(
    db,
    'DELETE FROM automation_runs WHERE said = 0 AND ended_at < NOW(3) - INTERVAL ? DAY LIMIT ?',
    [days, most],
  );
  return told + silent;
}

/** Forgets calls of ways in older than so many days. What was taken is known by then from what it said. */
export const forgetCalls = (db: Database, days: number, most: number): Promise<number> =>
  change(db, 'DELETE FROM hook_calls WHERE at < NOW(3) - INTERVAL ? DAY LIMIT ?', [days, most]);

/** Forgets what was handed over, or given up, more than so many days ago. */
export const forgetHandovers = (db: Database, days: number, most: number): Promise<number> =>
  change(
    db,
    'DELETE FROM hook_deliveries WHERE ended_at < NOW(3) - INTERVAL ? DAY AND occurrence_id IS NULL LIMIT ?',
    [days, most],
  );

/** Forgets lines of the audit trail older than so many days. */
export const forgetAudit = (db: Database, days: number, most: number): Promise<number> =>
  change(db, 'DELETE FROM audit WHERE at < NOW(3) - INTERVAL ? DAY LIMIT ?', [days, most]);
