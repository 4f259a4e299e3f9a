import {
  DEFAULT_CHOICES,
  type NoticeChoice,
  type NoticeKind,
  type NoticeTime,
} from '../../core/notices/notice.ts';
import type { Sql } from '../audience/sql.ts';
import type { WaitingSql } from '../bundling/waiting.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { claimDue } from '../database/claims.ts';
import { earliest, ms } from '../database/instant.ts';
import { restSql, whoRests } from '../people/rest.ts';
import { databaseNow } from '../database/connection.ts';

/** What somebody is told of. */
export interface Telling {
  kind: NoticeKind;
  title: string;
  text: string;
  /** Where it leads, as a path of the application. */
  path: string;
  /** Why it came, as a sentence addressed to whoever is told. */
  why: string;
  /** Told once to each person by this key: what it is about, as "outcome:12". */
  dedupeKey: string;
}

/**
 * Tells people of something, each by the ways they chose, in one statement. Mail and push that come at once wait for
 * the end of quiet hours. Telling it again changes nothing.
 *
 * @param who a condition over `people p`; those who have left and linked contacts are never told
 */
export async function notify(db: Database, who: Sql, telling: Telling): Promise<number> {
  const { kind } = telling;
  const usual = DEFAULT_CHOICES[kind];
  const rest = restSql(await whoRests(db, await databaseNow(db)));
  const state = (column: string, able: string): string =>
    `CASE WHEN NOT ${able} THEN 'no' WHEN ${column} = 'at once' THEN 'waiting' WHEN ${column} = 'daily' THEN 'daily' ELSE 'no' END`;
  return change(
    db,
    `INSERT INTO notices (person_id, kind, title, text, path, why, about, in_inbox, mail_state, mail_try_at, push_state, push_try_at)
     SELECT w.id, ?, ?, ?, ?, ?, ?, w.inbox, ${state('w.mail', 'w.has_mail')}, COALESCE(w.rests, NOW(3)),
       ${state('w.push', 'w.has_device')}, COALESCE(w.rests, NOW(3))
     FROM (SELECT p.id, COALESCE(c.inbox, ?) AS inbox, COALESCE(c.mail, ?) AS mail, COALESCE(c.push, ?) AS push,
         p.mail IS NOT NULL AND p.mail_stopped_at IS NULL AS has_mail,
         EXISTS (SELECT 1 FROM devices v WHERE v.person_id = p.id) AS has_device, ${rest.sql} AS rests
       FROM people p LEFT JOIN notice_choices c ON c.person_id = p.id AND c.kind = ?
       WHERE p.standing <> 'left' AND p.linked_to IS NULL AND ${who.sql}) w
     WHERE w.inbox OR w.mail <> 'no' OR w.push <> 'no'
     ON DUPLICATE KEY UPDATE notices.person_id = notices.person_id`,
    [
      kind,
      telling.title.slice(0, 200),
      telling.text.slice(0, 400),
      telling.path,
      telling.why.slice(0, 300),
      telling.dedupeKey,
      usual.inbox,
      usual.mail,
      usual.push,
      ...rest.bindings,
      kind,
      ...who.bindings,
    ],
  );
}

/** A condition over `people p` for some people. */
export const idList = (ids: readonly number[]): Sql =>
  ids.length === 0
    ? { sql: 'FALSE', bindings: [] }
    : { sql: `p.id IN (${ids.map(() => '?').join(', ')})`, bindings: [...ids] };

/**
 * Tells those whom an announcement has just reached and who want to be told of that, by push or in their daily mail.
 * What is urgent, or a test copy, goes to every device at once, whatever was chosen. Deliveries of a batch of people
 * only.
 *
 * @param options.waits when the push of those goes for whom it is gathered with others; null where it is for nobody
 */
export function notifyArrivals(
  db: Database,
  batch: { occurrenceId: number; after: number; to: number },
  why: string,
  { test = false, waits }: { test?: boolean; waits: WaitingSql | null },
): Promise<number> {
  const usual = DEFAULT_CHOICES.announcement;
  return change(
    db,
    `INSERT INTO notices (person_id, kind, title, text, path, why, about, urgent, in_inbox, mail_state, mail_try_at, push_state, push_try_at)
     SELECT w.id, 'announcement', w.title, w.excerpt, CONCAT('/for-me/', w.occurrence_id), ?,
       CONCAT('announcement:', w.occurrence_id), w.urgent, FALSE, IF(w.mail = 'daily', 'daily', 'no'), NULL,
       CASE WHEN NOT w.has_device THEN 'no' WHEN w.urgent THEN 'waiting' WHEN w.push = 'at once' THEN IF(w.bundle IS NULL, 'waiting', 'bundled')
         WHEN w.push = 'daily' THEN 'daily' ELSE 'no' END, COALESCE(w.bundle, NOW(3))
     FROM (SELECT p.id, i.occurrence_id, CONCAT(?, v.title) AS title, v.excerpt, (v.importance = 'urgent' OR ?) AS urgent,
         IF(p.mail IS NULL OR p.mail_stopped_at IS NOT NULL, 'no', COALESCE(c.mail, ?)) AS mail, COALESCE(c.push, ?) AS push,
         EXISTS (SELECT 1 FROM devices e WHERE e.person_id = p.id) AS has_device, ${waits?.sql ?? 'NULL'} AS bundle
       FROM (SELECT DISTINCT person_id FROM devices UNION SELECT person_id FROM notice_choices
               WHERE kind = 'announcement' AND mail = 'daily') k
         JOIN deliveries i ON i.person_id = k.person_id AND i.occurrence_id = ? AND i.method = 'inbox' AND i.state = 'delivered'
         JOIN people p ON p.id = k.person_id
         JOIN occurrences o ON o.id = i.occurrence_id JOIN announcement_versions v ON v.id = o.version_id
         LEFT JOIN notice_choices c ON c.person_id = p.id AND c.kind = 'announcement'
       WHERE k.person_id > ? AND k.person_id <= ?) w
     WHERE w.mail = 'daily' OR (w.has_device AND (w.urgent OR w.push <> 'no'))
     ON DUPLICATE KEY UPDATE notices.person_id = notices.person_id`,
    [
      why,
      test ? 'Test: ' : '',
      test,
      usual.mail,
      usual.push,
      ...(waits?.bindings ?? []),
      batch.occurrenceId,
      batch.after,
      batch.to,
    ],
  );
}

export interface NoticeRow {
  id: number;
  kind: NoticeKind;
  atMs: number;
  title: string;
  text: string;
  path: string;
  why: string;
  read: number;
}

/** A page of what somebody was told in their inbox, the latest first. */
export function noticesPage(
  db: Database,
  personId: number,
  before: number | null,
  most: number,
  which: 'all' | 'unread' = 'all',
): Promise<NoticeRow[]> {
  return rows(
    db,
    `SELECT id, kind, ${ms('at')} AS atMs, title, text, path, why, read_at IS NOT NULL AS \`read\` FROM notices
     WHERE person_id = ? AND in_inbox ${which === 'unread' ? 'AND read_at IS NULL' : ''} ${before === null ? '' : 'AND id < ?'}
     ORDER BY id DESC LIMIT ?`,
    before === null ? [personId, most] : [personId, before, most],
  );
}

/** How many of what somebody was told they have not read, counted up to a hundred. */
export async function unreadNotices(db: Database, personId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM (SELECT 1 FROM notices WHERE person_id = ? AND in_inbox AND read_at IS NULL
       ORDER BY id DESC LIMIT 100) u`,
    [personId],
  );
  return row?.n ?? 0;
}

/** Marks what somebody was told as read: all of it, or what leads to a path. */
export const markNoticesRead = (db: Database, personId: number, path: string | null): Promise<number> =>
  change(
    db,
    `UPDATE notices SET read_at = NOW(3) WHERE person_id = ? AND read_at IS NULL ${path === null ? '' : 'AND path = ?'}`,
    path === null ? [personId] : [personId, path],
  );

export async function choicesOf(
  db: Database,
  personId: number,
): Promise<{ digestAt: string; choices: Map<NoticeKind, NoticeChoice> }> {
  const [person, found] = await Promise.all([
    rows<{ digestAt: string }>(db, 'SELECT digest_at AS digestAt FROM people WHERE id = ?', [personId]),
    rows<{ kind: NoticeKind; inbox: number; mail: NoticeTime; push: NoticeTime }>(
      db,
      'SELECT kind, inbox, mail, push FROM notice_choices WHERE person_id = ?',
      [personId],
    ),
  ]);
  return {
    digestAt: person[0]?.digestAt ?? '17:00',
    choices: new Map(found.map(({ kind, inbox, ...times }) => [kind, { inbox: inbox === 1, ...times }])),
  };
}

export async function saveChoices(
  db: Database,
  personId: number,
  digestAt: string,
  choices: Partial<Record<NoticeKind, NoticeChoice>>,
): Promise<void> {
  await change(db, 'UPDATE people SET digest_at = ? WHERE id = ?', [digestAt, personId]);
  for (const [kind, choice] of Object.entries(choices))
    await change(
      db,
      `INSERT INTO notice_choices (person_id, kind, inbox, mail, push) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE inbox = VALUES(inbox), mail = VALUES(mail), push = VALUES(push)`,
      [personId, kind, choice.inbox, choice.mail, choice.push],
    );
}

export type NoticeMethod = 'mail' | 'push';

export interface ClaimedNotice {
  id: number;
  personId: number;
  kind: NoticeKind;
  title: string;
  text: string;
  path: string;
  why: string;
  urgent: number;
  attempts: number;
  name: string;
  mail: string | null;
  zone: string;
  atMs: number;
}

const CLAIMED = (method: NoticeMethod): string =>
  `SELECT n.id, n.person_id AS personId, n.kind, n.title, n.text, n.path, n.why, n.urgent, n.${method}_attempts AS attempts,
     p.name, p.mail, p.zone, ${ms('n.at')} AS atMs
   FROM notices n JOIN people p ON p.id = n.person_id`;

/**
 * Claims notices that go at once by a method, or whose engine died. Rows another engine is claiming are skipped; the
 * end of a claim is kept in the column of the next attempt.
 */
export async function claimNotices(
  db: Database,
  method: NoticeMethod,
  claim: string,
  seconds: number,
  most: number,
): Promise<ClaimedNotice[]> {
  const claimed = await claimDue<{ id: number }>(db, {
    states: ['waiting', 'sending'],
    most,
    due: (trx, state, limit) =>
      rows(
        trx,
        `SELECT id FROM notices WHERE ${method}_state = ? AND ${method}_try_at <= NOW(3)
         ORDER BY ${method}_try_at LIMIT ? FOR UPDATE SKIP LOCKED`,
        [state, limit],
      ),
    left: { kind: `notice by ${method}`, keyOf: (row) => row.id },
    mark: (trx, found) =>
      change(
        trx,
        `UPDATE notices SET ${method}_state = 'sending', ${method}_claim = ?, ${method}_attempts = ${method}_attempts + 1,
           ${method}_try_at = NOW(3) + INTERVAL ? SECOND WHERE id IN (${found.map(() => '?').join(', ')})`,
        [claim, seconds, ...found.map((row) => row.id)],
      ),
  });
  if (claimed.length === 0) return [];
  const ids = claimed.map((row) => row.id);
  return rows(db, `${CLAIMED(method)} WHERE n.id IN (${ids.map(() => '?').join(', ')}) ORDER BY n.id`, ids);
}

/**
 * People for whom something waits for their daily digest by a method, some after an id, with since when and their hour.
 * Whose digest failed for the moment is left out until it is to be tried again.
 */
export function digestsWaiting(
  db: Database,
  method: NoticeMethod,
  after: number,
  most: number,
): Promise<{ personId: number; sinceMs: number; zone: string; digestAt: string }[]> {
  return rows(
    db,
    `SELECT p.id AS personId, w.sinceMs, p.zone, p.digest_at AS digestAt
     FROM (SELECT person_id, ${ms('MIN(at)')} AS sinceMs FROM notices WHERE ${method}_state = 'daily' AND person_id > ?
       GROUP BY person_id HAVING COALESCE(MAX(${method}_try_at), '1970-01-01') <= NOW(3) ORDER BY person_id LIMIT ?) w
       JOIN people p ON p.id = w.person_id ORDER BY p.id`,
    [after, most],
  );
}

/** People whose bundle of push messages is due, some at a time. */
export async function bundlesDue(db: Database, most: number): Promise<number[]> {
  const found = await rows<{ personId: number }>(
    db,
    `SELECT DISTINCT person_id AS personId FROM notices FORCE INDEX (notices_to_push)
     WHERE push_state = 'bundled' AND push_try_at <= NOW(3) LIMIT ?`,
    [most],
  );
  return found.map((row) => row.personId);
}

/** SQL for the next instant at which notices go together by push. */
export const BUNDLE_DUE = "SELECT MIN(push_try_at) FROM notices WHERE push_state = 'bundled'";

/** Most that one digest gathers; what is more goes in the next one. */
const MOST_IN_DIGEST = 200;

/** Claims what waits for one person's digest, or what is due of their bundle. */
export async function claimDigest(
  db: Database,
  method: NoticeMethod,
  personId: number,
  claim: string,
  seconds: number,
  gathered: 'daily' | 'bundled' = 'daily',
): Promise<ClaimedNotice[]> {
  const changed = await change(
    db,
    `UPDATE notices SET ${method}_state = 'sending', ${method}_claim = ?, ${method}_attempts = ${method}_attempts + 1,
       ${method}_try_at = NOW(3) + INTERVAL ? SECOND
     WHERE person_id = ? AND ${method}_state = '${gathered}'${gathered === 'bundled' ? ` AND ${method}_try_at <= NOW(3)` : ''}
     ORDER BY id LIMIT ${MOST_IN_DIGEST}`,
    [claim, seconds, personId],
  );
  if (changed === 0) return [];
  return rows(
    db,
    `${CLAIMED(method)} WHERE n.person_id = ? AND n.${method}_state = 'sending' AND n.${method}_claim = ? ORDER BY n.id`,
    [personId, claim],
  );
}

/** Writes what became of claimed notices; a claim that was lost meanwhile changes nothing. */
export async function recordNoticeOutcome(
  db: Database,
  method: NoticeMethod,
  claim: string,
  ids: readonly number[],
  outcome: { state: 'sent' | 'failed' | 'no' } | { state: 'waiting' | 'daily' | 'bundled'; waitMs: number },
): Promise<void> {
  if (ids.length === 0) return;
  const wait = 'waitMs' in outcome ? outcome.waitMs : 0;
  await change(
    db,
    `UPDATE notices SET ${method}_state = ?, ${method}_try_at = NOW(3) + INTERVAL ? MICROSECOND
     WHERE id IN (${ids.map(() => '?').join(', ')}) AND ${method}_state = 'sending' AND ${method}_claim = ?`,
    [outcome.state, Math.round(wait * 1000), ...ids, claim],
  );
}

/** Gives back what was claimed and not handed over, in the state it was claimed in, as if it had not been claimed. */
export const giveBackNotices = (
  db: Database,
  method: NoticeMethod,
  claim: string,
  state: 'waiting' | 'daily' | 'bundled',
): Promise<number> =>
  change(
    db,
    `UPDATE notices SET ${method}_state = ?, ${method}_try_at = NOW(3), ${method}_attempts = ${method}_attempts - 1
     WHERE ${method}_state = 'sending' AND ${method}_claim = ?`,
    [state, claim],
  );

/** SQL for the next instant at which a notice is to be handed over, or the claim of one ends. */
export const noticeDue = (method: NoticeMethod): string =>
  earliest(
    `SELECT MIN(${method}_try_at) FROM notices WHERE ${method}_state = 'waiting'`,
    `SELECT MIN(${method}_try_at) FROM notices WHERE ${method}_state = 'sending'`,
  );
