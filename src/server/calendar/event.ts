import ical, { ICalCalendarMethod, ICalEventStatus } from 'ical-generator';
import { eventLink, eventSpan, type EventDetails } from '../../core/content/event.ts';

/** The UID of a date of the calendar (RFC 5545 section 3.8.4.7): the same wherever it is told of. */
export const dateUid = (dateId: number, host: string): string => `session-date-${dateId}@${host}`;

/** The UID of the event of an announcement: that of the date it is, else one of its own. */
export const eventUid = (event: EventDetails, announcementId: number, host: string): string =>
  event.sessionDateId === undefined ? `${announcementId}@${host}` : dateUid(event.sessionDateId, host);

/**
 * An event as an iCalendar file (RFC 5545, RFC 5546 PUBLISH) for a reader's own calendar. Its instants are written in
 * UTC, so that every calendar shows them on its own clock.
 *
 * @param uid stays the same when the event is told of again, so that a calendar replaces it
 * @param options.sequence grows where what is told has changed (RFC 5545 section 3.8.7.4)
 * @param options.off whether it does not take place: the event is CANCELLED
 */
export function eventCalendar(
  event: EventDetails,
  title: string,
  text: string,
  uid: string,
  { sequence = 0, off = false }: { sequence?: number; off?: boolean } = {},
): string {
  const { startMs, endMs } = eventSpan(event);
  const link = eventLink(event);
  const calendar = ical({
    method: ICalCalendarMethod.PUBLISH,
    prodId: { company: 'Clear Bell', product: 'Clear Bell', language: 'EN' },
  });
  calendar.createEvent({
    id: uid,
    sequence,
    ...(off ? { status: ICalEventStatus.CANCELLED } : {}),
    start: new Date(startMs),
    end: new Date(endMs),
    summary: title,
    description: text,
    ...(event.place.trim() === '' ? {} : { location: event.place.trim() }),
    ...(link === null ? {} : { url: link }),
  });
  return calendar.toString();
}
