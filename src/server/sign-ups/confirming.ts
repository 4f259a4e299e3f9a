import { createHash } from 'node:crypto';
import { eventSpan, type EventDetails } from '../../core/content/event.ts';
import { versionById } from '../announcements/versionStore.ts';
import { eventCalendar, eventUid } from '../calendar/event.ts';
import type { Database } from '../database/connection.ts';
import type { Handlers } from '../events/follow.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { confirmAgain } from './store.ts';

/** An event as whoever signed up is told of it. */
export interface EventNow {
  title: string;
  event: EventDetails;
  off: boolean;
  /** What is told of it, in 16 characters: two that are equal say the same. */
  digest: string;
  /** It as an iCalendar file; `told` is how often it was told before. */
  calendar: (told: number) => string;
}

/** The event of an occurrence as it stands; undefined where the occurrence never told of one. */
export async function eventNow(
  db: Database,
  occurrenceId: number,
  host: string,
): Promise<EventNow | undefined> {
  const occurrence = await occurrenceById(db, occurrenceId);
  const version = occurrence && (await versionById(db, occurrence.versionId));
  if (!occurrence || !version?.event) return undefined;
  const { title, event } = version;
  const off = occurrence.state === 'recalled' || !!occurrence.withdrawn || !event.signUp;
  const said = JSON.stringify([off, title, eventSpan(event), event.place, event.link]);
  return {
    title,
    event,
    off,
    digest: createHash('sha256').update(said).digest('hex').slice(0, 16),
    calendar: (told) =>
      eventCalendar(event, title, version.excerpt, eventUid(event, occurrence.announcementId, host), {
        sequence: told,
        off,
      }),
  };
}

/** Whoever signed up is told when what they signed up to moves, or does not take place. */
export const signUpConfirmations: Handlers = {
  'occurrence.corrected': (trx, of) => confirmAgain(trx, of.occurrence),
  'occurrence.withdrawn': (trx, of) => confirmAgain(trx, of.occurrence),
};
