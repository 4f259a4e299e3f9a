import { simpleContent } from '../../core/content/announcement.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { beginDraft, saveDraft } from '../announcements/service.ts';
import { versionById } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { readLink } from '../links/signed.ts';
import { personById } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { sayOfDate } from './answering.ts';
import { eventOfDate } from './dateEvent.ts';
import { sessionById } from './store.ts';
import { openDate, requireCalendar, shownDate } from './visible.ts';
import type { Said } from '../../core/calendar/session.ts';
import type { ShownDate } from '../../core/calendar/shown.ts';

/** Begins an announcement of a date, to whom its session is for; gives the draft's id. */
export async function announceDate(db: Database, actor: Actor, id: number): Promise<{ id: number }> {
  requireCalendar(actor);
  const { date } = await openDate(db, actor, id);
  const session = await sessionById(db, date.sessionId);
  if (!session) throw notFound('session');
  if (date.calledOff) throw new Problem(409, 'It is called off.');
  if (date.startMs <= (await databaseNow(db))) throw new Problem(409, 'It has begun.');
  const draftId = await beginDraft(db, actor);
  await saveDraft(db, actor, draftId, {
    content: {
      ...simpleContent(session.title, {
        type: 'doc',
        content: session.text
          .split(/\n+/)
          .filter((line) => line.trim() !== '')
          .map((text) => ({ type: 'paragraph', content: [{ type: 'text', text }] })),
      }),
      event: eventOfDate(date),
    },
    plan: { ...EMPTY_PLAN, audience: session.audience },
    revision: 1,
    saveOver: false,
  });
  await record(db, {
    actorId: actor.id,
    action: 'announce',
    subject: 'session',
    subjectId: session.id,
    detail: { date: id, draft: draftId },
  });
  return { id: draftId };
}

/** What a link of a mail leads to by which its reader says whether they come. */
export type ComingPage =
  | { state: 'expired' | 'altered' | 'gone' }
  | { state: 'good'; personId: number; name: string; zone: string; date: ShownDate };

const asMember = (id: number): Actor => ({
  id,
  role: 'member',
  moderates: new Set(),
  mayReach: new Set(),
});

/** Opens such a link without doing anything: mail scanners open every link. */
export async function openComing(db: Database, secret: string, token: string): Promise<ComingPage> {
  const reading = readLink(secret, token, 'coming', await databaseNow(db));
  if (reading.state !== 'good') return reading;
  const { occurrenceId, personId } = reading.claim;
  const [person, occurrence] = await Promise.all([
    personById(db, personId),
    occurrenceById(db, occurrenceId),
  ]);
  const version = occurrence && (await versionById(db, occurrence.versionId));
  const dateId = version?.event?.sessionDateId;
  if (!person || person.standing === 'left' || dateId === undefined) return { state: 'gone' };
  try {
    const date = await shownDate(db, asMember(personId), dateId);
    return { state: 'good', personId, name: person.name, zone: person.zone, date };
  } catch (error) {
    if (error instanceof Problem && error.status === 404) return { state: 'gone' };
    throw error;
  }
}

/** Says whether the reader of a mail comes; as whoever the link was sent to, and nobody else. */
export const sayByLink = (
  db: Database,
  page: Extract<ComingPage, { state: 'good' }>,
  said: Said | null,
): Promise<ShownDate> => sayOfDate(db, asMember(page.personId), page.date.id, said, 'mail');
