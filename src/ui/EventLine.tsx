import type { ShownEvent } from '../core/content/shownEvent.ts';
import { lastsWords, momentWords, zoneWords } from '../core/timing/words.ts';
import { Moment } from './Moment.tsx';

/** When and where an event is, in the reader's own time, with what it is where it was set one hover away. */
export function EventLine({
  event,
  zone,
  nowMs,
  calendarUrl,
}: {
  event: ShownEvent;
  zone: string;
  nowMs: number;
  /** Where the reader's own calendar gets it from; nothing in a preview. */
  calendarUrl?: string;
}) {
  const { startMs, link } = event;
  return (
    <p className="mt-4 border-l-4 border-secondary pl-4">
      <strong title={`${momentWords(startMs, event.zone, nowMs)} in ${zoneWords(event.zone)}`}>
        <Moment at={startMs} zone={zone} nowMs={nowMs} />
      </strong>
      , for {lastsWords(event.minutes)}, your time.
      {event.place.trim() === '' ? null : (
        <span className="block" dir="auto">
          {event.place}
        </span>
      )}
      {link === null ? null : (
        <a className="block link-quiet" href={link} rel="noopener noreferrer nofollow">
          {link}
        </a>
      )}
      {calendarUrl === undefined ? null : (
        <a className="btn btn-outline btn-sm mt-2" href={calendarUrl}>
          Add to my calendar
        </a>
      )}
    </p>
  );
}
