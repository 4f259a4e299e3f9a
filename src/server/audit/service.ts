import { deedWords, type AuditPage } from '../../core/audit/deeds.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { resolveMoment } from '../../core/timing/wallTime.ts';
import type { Session } from '../accounts/service.ts';
import type { Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { Problem } from '../problem.ts';
import { namesOfSubjects, trailPage, type TrailQuery, type TrailRow } from './trailStore.ts';

const PAGE = 100;

/** What is looked for, as it is asked: days as YYYY-MM-DD on the reader's clock, both included. */
export interface AuditQuery {
  search: string;
  subject: string | null;
  from: string | null;
  to: string | null;
}

/** A 403 problem where this person does not see the audit trail. */
export function requireAuditTrail(actor: Actor): void {
  if (decide(actor, { kind: 'look after the organisation' }).outcome === 'denied')
    throw new Problem(403, 'Only a coordinator sees who did what.');
}

const DAY_MS = 86_400_000;
const nextDay = (day: string): string => new Date(Date.parse(day) + DAY_MS).toISOString().slice(0, 10);

function trailQuery({ search, subject, from, to }: AuditQuery, zone: string): TrailQuery {
  const begins = (day: string): number => resolveMoment({ wall: `${day}T00:00`, zone }).epochMs;
  return {
    search: search.trim(),
    subject,
    fromMs: from === null ? null : begins(from),
    toMs: to === null ? null : begins(nextDay(to)),
  };
}

async function read(db: Database, found: readonly TrailRow[]): Promise<AuditPage['lines']> {
  const names = await namesOfSubjects(db, found);
  return found.map(({ id, atMs, actorId, actor, action, subject, subjectId, program }) => ({
    id,
    atMs,
    actor: actorId === null && actor === null ? null : { id: actorId, name: actor ?? 'somebody who is gone' },
    words: deedWords({ action, subject, program, name: names.get(`${subject} ${subjectId}`) ?? null }),
    subject,
    subjectId,
  }));
}

/** A page of who did what, the latest first; for coordinators. */
export async function auditPage(
  db: Database,
  session: Pick<Session, 'actor' | 'zone'>,
  query: AuditQuery,
  before: number | null,
): Promise<AuditPage> {
  requireAuditTrail(session.actor);
  const found = await trailPage(db, trailQuery(query, session.zone), before, PAGE + 1);
  const lines = await read(db, found.slice(0, PAGE));
  return { lines, next: found.length > PAGE ? (lines.at(-1)?.id ?? null) : null };
}

/** Who did what, as a CSV; all that is looked for, however much. */
export function auditCsv(db: Database, session: Session, query: AuditQuery): ReadableStream<Uint8Array> {
  requireAuditTrail(session.actor);
  const asked = trailQuery(query, session.zone);
  async function* pages(): AsyncGenerator<string[][]> {
    for (let before: number | null = null; ;) {
      const found: TrailRow[] = await trailPage(db, asked, before, 1000);
      const last = found.at(-1);
      if (!last) return;
      yield (await read(db, found)).map((line) => [
        new Date(line.atMs).toISOString(),
        line.actor?.name ?? 'Clear Bell',
        line.words,
        line.subject,
        String(line.subjectId ?? ''),
      ]);
      before = last.id;
    }
  }
  return csvStream(['At (UTC)', 'Who', 'Did', 'Subject', 'Number'], pages());
}
