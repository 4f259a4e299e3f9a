import type { Desk, Ribbon } from '../../core/desk/desk.ts';
import { dayAround } from '../../core/timing/day.ts';
import type { Session } from '../accounts/service.ts';
import { listDrafts } from '../announcements/service.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { engineHealth } from '../engine/store.ts';
import { goings, needsYou, runSheet } from '../sends/service.ts';

const DAYS_AHEAD = 14;
const DAYS_BACK = 7;

/** The desk at a glance: today's ribbon, the days around it, and what needs somebody. */
export async function deskToday(db: Database, session: Session): Promise<Desk> {
  const nowMs = await databaseNow(db);
  const { actor, zone } = session;
  const first = dayAround(nowMs, zone, -DAYS_BACK);
  const last = dayAround(nowMs, zone, DAYS_AHEAD);
  const [rows, needs, engine, drafts] = await Promise.all([
    runSheet(db, actor, first.startMs, last.endMs),
    needsYou(db, actor),
    engineHealth(db),
    listDrafts(db, actor),
  ]);
  return {
    nowMs,
    zone,
    today: dayAround(nowMs, zone),
    rows,
    needs,
    engine,
    drafts: drafts.map((draft) => ({
      id: draft.id,
      title: draft.content.title.trim(),
      savedMs: draft.savedMs,
      savedBy: draft.savedByName,
    })),
  };
}

/** Today in this person's zone with every going-out where it stands. */
export async function ribbon(db: Database, session: Session): Promise<Ribbon> {
  const nowMs = await databaseNow(db);
  const today = dayAround(nowMs, session.zone);
  const rows = await goings(db, session.actor, today.startMs, today.endMs);
  return {
    nowMs,
    zone: session.zone,
    today,
    marks: rows.map(({ id, title, state, dueMs }) => ({ occurrenceId: id, title, state, dueMs })),
  };
}
