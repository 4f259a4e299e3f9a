import type { When } from '../../core/automation/automation.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** An ask that automations can listen to, and when what they listen to came about. */
export interface AskMoment {
  occurrenceId: number;
  createdBy: number;
  atMs: number;
}

type OfAsks = Pick<Extract<When, { kind: 'ask closes' }>, 'asks'>;

const kinds = ({ asks }: OfAsks): string => (asks === 'any' ? '' : 'AND a.kind = ?');
const binding = ({ asks }: OfAsks): string[] => (asks === 'any' ? [] : [asks]);
/** Of what was sent, and holds: no test, no chase, nothing that was withdrawn. */
const FROM = `asks a JOIN occurrences o ON o.id = a.occurrence_id AND o.withdrawn_at IS NULL
  JOIN sends s ON s.id = o.send_id AND s.kind = 'send'`;

/** The acknowledgements whose deadline is in a period: they stay open, as a late answer counts. */
export function deadlinesBetween(
  db: Database,
  of: OfAsks,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<AskMoment[]> {
  if (of.asks !== 'any' && of.asks !== 'acknowledgement') return Promise.resolve([]);
  return rows(
    db,
    `SELECT o.id AS occurrenceId, s.created_by AS createdBy, ${ms('o.deadline_at')} AS atMs FROM ${FROM}
     WHERE a.kind = 'acknowledgement' AND o.deadline_at >= ? AND o.deadline_at < ?
       AND (a.closed_at IS NULL OR a.closed_at > o.deadline_at) ORDER BY o.deadline_at LIMIT ?`,
    [new Date(fromMs), new Date(toMs), most],
  );
}

/** The asks that closed in a period. */
export const closedBetween = (
  db: Database,
  of: OfAsks,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<AskMoment[]> =>
  rows(
    db,
    `SELECT o.id AS occurrenceId, s.created_by AS createdBy, ${ms('a.closed_at')} AS atMs FROM ${FROM}
     WHERE a.closed_at >= ? AND a.closed_at < ? ${kinds(of)} ORDER BY a.closed_at LIMIT ?`,
    [new Date(fromMs), new Date(toMs), ...binding(of), most],
  );

/** The asks that began before the end of a period and were answered in it. */
export const answeredBetween = (
  db: Database,
  of: OfAsks,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<Omit<AskMoment, 'atMs'>[]> =>
  rows(
    db,
    `SELECT o.id AS occurrenceId, s.created_by AS createdBy FROM ${FROM}
     WHERE o.due_at < ? ${kinds(of)} AND EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = o.id AND r.answered_at >= ? AND r.answered_at < ?)
     ORDER BY o.id DESC LIMIT ?`,
    [new Date(toMs), ...binding(of), new Date(fromMs), new Date(toMs), most],
  );

/** The ask that was sent last; whoever's it is where nobody is named. */
export async function lastAsk(
  db: Database,
  of: OfAsks,
  createdBy: number | null,
): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM ${FROM} WHERE TRUE ${kinds(of)} ${createdBy === null ? '' : 'AND s.created_by = ?'}
     ORDER BY o.due_at DESC, o.id DESC LIMIT 1`,
    [...binding(of), ...(createdBy === null ? [] : [createdBy])],
  );
  return row?.id;
}

/** An ask that was sent and holds: its kind and who sent it; undefined where it is none of these. */
export async function sentAsk(
  db: Database,
  occurrenceId: number,
): Promise<
  { kind: 'acknowledgement' | 'poll' | 'check-in'; createdBy: number; closed: boolean } | undefined
> {
  const [row] = await rows<{
    kind: 'acknowledgement' | 'poll' | 'check-in';
    createdBy: number;
    closed: number;
  }>(
    db,
    `SELECT a.kind, s.created_by AS createdBy, a.closed_at IS NOT NULL AS closed FROM ${FROM} WHERE a.occurrence_id = ?`,
    [occurrenceId],
  );
  return row && { ...row, closed: row.closed === 1 };
}

/**
 * When a share of those asked had answered: the instant of the answer that made it so many.
 *
 * @param share in percent
 * @returns milliseconds since 1970; null where so many have not answered
 */
export async function answeredAt(db: Database, occurrenceId: number, share: number): Promise<number | null> {
  const [tally] = await rows<{ asked: number; answered: number }>(
    db,
    'SELECT COUNT(*) AS asked, COUNT(answered_at) AS answered FROM roll WHERE occurrence_id = ?',
    [occurrenceId],
  );
  const needed = Math.ceil(((tally?.asked ?? 0) * share) / 100);
  if (needed === 0 || (tally?.answered ?? 0) < needed) return null;
  const [row] = await rows<{ atMs: number }>(
    db,
    `SELECT ${ms('answered_at')} AS atMs FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL
     ORDER BY answered_at LIMIT 1 OFFSET ?`,
    [occurrenceId, needed - 1],
  );
  return row?.atMs ?? null;
}
