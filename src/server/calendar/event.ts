import ical, { ICalCalendarMethod } from 'ical-generator';
import { eventLink, eventSpan, type EventDetails } from '../../core/content/event.ts';

/**
 * An event as an iCalendar file (RFC 5545, RFC 5546 PUBLISH) for a reader's own calendar. Its instants are written in
 * UTC, so that every calendar shows them on its own clock.
 *
 * @param uid stays the same when the event is told of again, so that a calendar replaces it
 */
export function eventCalendar(event: EventDetails, title: string, text: string, uid: string): string {
  const { startMs, endMs } = eventSpan(event);
  const link = eventLink(event);
  const calendar = ical({
    method: ICalCalendarMethod.PUBLISH,
    prodId: { company: 'Clear Bell', product: 'Clear Bell', language: 'EN' },
  });
  calendar.createEvent({
    id: uid,
    start: new Date(startMs),
    end: new Date(endMs),
    summary: title,
    description: text,
    ...(event.place.trim() === '' ? {} : { location: event.place.trim() }),
    ...(link === null ? {} : { url: link }),
  });
  return calendar.toString();
}
