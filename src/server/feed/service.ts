import ical from 'ical-generator';
import type { Actor } from '../../core/rights/decide.ts';
import { sentenceText } from '../../core/plan/sentence.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { hashedKey, newFeedKeyText } from '../links/feedKey.ts';
import { notFound } from '../problem.ts';
import { planNames } from '../sends/planNames.ts';
import { goings } from '../sends/runSheet.ts';
import { personByCalendarKey, setCalendarKey } from './store.ts';

const DAY_MS = 86_400_000;

/** Makes the secret address of this person's feed of what is planned; the one before ends. It is shown once. */
export async function newFeedKey(db: Database, actor: Actor): Promise<string> {
  requireDesk(actor);
  const key = newFeedKeyText();
  await transact(db, async (trx) => {
    await setCalendarKey(trx, actor.id, hashedKey(key));
    await record(trx, {
      actorId: actor.id,
      action: 'make calendar feed',
      subject: 'person',
      subjectId: actor.id,
    });
  });
  return key;
}

/**
 * What is planned and has gone, a month back and three weeks ahead, as an iCalendar feed (RFC 5545) for a calendar
 * program, which has no session: the key in the address is the right to read it.
 */
export async function plannedFeed(db: Database, key: string, publicUrl: string): Promise<string> {
  const person = await personByCalendarKey(db, hashedKey(key));
  if (!person || person.role === 'member') throw notFound('calendar');
  const actor: Actor = { ...person, moderates: new Set(), mayReach: new Set() };
  const nowMs = await databaseNow(db);
  const found = await goings(db, actor, nowMs - 30 * DAY_MS, nowMs + 21 * DAY_MS);
  const names = await planNames(
    db,
    actor,
    found.map((each) => each.plan),
  );
  const calendar = ical({
    name: 'Clear Bell: what goes out',
    prodId: { company: 'Clear Bell', product: 'Clear Bell', language: 'EN' },
    ttl: 600,
  });
  for (const each of found) {
    if (each.state === 'recalled') continue;
    calendar.createEvent({
      id: `occurrence-${each.id}@${new URL(publicUrl).hostname}`,
      start: new Date(each.dueMs),
      end: new Date(Math.max(each.endsMs, each.dueMs + 15 * 60_000)),
      summary: each.title,
      description: `${sentenceText(each.plan, names, nowMs)} (${each.state})`,
      url: `${publicUrl}/sends/${each.id}`,
    });
  }
  return calendar.toString();
}
