import type { ShownDate } from '../../core/calendar/shown.ts';
import { lastsWords, momentWords, timeWords, zoneWords } from '../../core/timing/words.ts';
import { Comes } from '../../ui/calendar/Comes.tsx';

/** One date of a session: when on the reader's clock, where, and whether they come. */
export function DateEntry({
  date,
  zone,
  nowMs,
  looksAfter,
  alone = false,
  onSaid,
}: {
  date: ShownDate;
  zone: string;
  nowMs: number;
  looksAfter: boolean;
  /** Whether it stands on a page of its own, under its title. */
  alone?: boolean;
  onSaid: (date: ShownDate) => void;
}) {
  const endMs = date.startMs + date.minutes * 60_000;
  return (
    <div className={alone ? '' : 'grid gap-x-5 gap-y-2 py-3 sm:grid-cols-[7.5rem_1fr_auto]'}>
      {alone ? null : (
        <p
          className="figure"
          title={`${momentWords(date.startMs, date.zone, nowMs)} in ${zoneWords(date.zone)}`}
        >
          <strong className={date.calledOff ? 'line-through' : ''}>
            {timeWords(date.startMs, zone)}–{timeWords(endMs, zone)}
          </strong>
        </p>
      )}
      <div className="min-w-0" dir="auto">
        {alone ? null : (
          <p>
            <a className="link-quiet font-semibold" href={`/calendar/dates/${date.id}`}>
              {date.title}
            </a>
            {looksAfter && !date.invited ? <span className="text-sm text-quiet"> (not for you)</span> : null}
          </p>
        )}
        {date.calledOff ? <p className="font-semibold text-error">Called off</p> : null}
        {date.place === '' ? null : <p>{date.place}</p>}
        {date.link === '' ? null : (
          <p className="break-all">
            <a className="link-quiet" href={date.link} rel="noopener noreferrer nofollow">
              {date.link}
            </a>
          </p>
        )}
        {date.note === '' ? null : <p className="mt-1 border-l-4 border-warning pl-3">{date.note}</p>}
        {alone && date.text !== '' ? (
          <p className="mt-4 max-w-prose whitespace-pre-line">{date.text}</p>
        ) : null}
        <div className={alone ? 'mt-5' : 'mt-1'}>
          <Comes date={date} nowMs={nowMs} onSaid={onSaid} />
        </div>
        {alone && !date.calledOff && endMs > nowMs ? (
          <p className="mt-4 flex flex-wrap gap-2 text-sm text-quiet">
            It lasts {lastsWords(date.minutes)}.
            <a className="link-quiet" href={`/api/calendar/dates/${date.id}/event.ics`}>
              Add to my calendar
            </a>
          </p>
        ) : null}
      </div>
      {alone || !looksAfter ? null : (
        <a
          className="btn btn-ghost btn-sm justify-self-start"
          href={`/calendar/${date.sessionId}`}
          aria-label={`Look after ${date.title}`}
        >
          Look after it
        </a>
      )}
    </div>
  );
}
