import { useMemo, useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { CalendarPage, ShownDate } from '../../core/calendar/shown.ts';
import { dateWords, isoDate, zoneWords } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServerPages } from '../../ui/server.ts';
import { useNow } from '../../ui/useNow.ts';
import { DateEntry } from './DateEntry.tsx';

const EVERY_MS = 60_000;
/** Fetched by whoever makes a session; all others only read. */
const SessionForm = lazily(() => import('./SessionForm.tsx').then((module) => module.SessionForm));
type Cursor = NonNullable<CalendarPage['next']>;

const pathOf = (all: boolean, after: Cursor | null) => {
  const query = new URLSearchParams({
    all: all ? 'yes' : 'no',
    ...(after ? { startMs: String(after.startMs), id: String(after.id) } : {}),
  });
  return `/api/calendar?${query.toString()}` as const;
};

/** The dates of each day of the reader's clock, in order. */
function byDay(dates: readonly ShownDate[], zone: string): [string, ShownDate[]][] {
  const days = new Map<string, ShownDate[]>();
  for (const date of dates) {
    const day = isoDate(date.startMs, zone);
    days.set(day, [...(days.get(day) ?? []), date]);
  }
  return [...days];
}

/** What people gather for, day by day on the reader's own clock. */
export default function Calendar({
  first,
  zone,
  nowMs,
  me,
  choices,
}: {
  first: CalendarPage;
  zone: string;
  nowMs: number;
  me: number;
  /** Whom a session can be for, for whoever looks after the calendar; null for all others. */
  choices: AudienceChoices | null;
}) {
  const looksAfter = choices !== null;
  const [all, setAll] = useState(looksAfter);
  const [making, setMaking] = useState(false);
  const now = useNow(nowMs, EVERY_MS);
  const topics = useMemo(() => ['calendar', `person:${me}`], [me]);
  const path = (after: Cursor | null) => pathOf(all, after);
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage, refetch } = useServerPages({
    path,
    next: (page) => page.next,
    first: { path: pathOf(looksAfter, null), page: first },
    topics,
  });
  const dates = (data?.pages ?? [first]).flatMap((page) => page.dates);
  const days = byDay(dates, zone);
  return (
    <Awake>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
        <h1>Calendar</h1>
        {choices ? (
          <div className="flex flex-wrap gap-2">
            <a className="btn btn-ghost" href="/calendar/followed">
              Other calendars
            </a>
            <button type="button" className="btn btn-primary" onClick={() => setMaking(true)}>
              New session
            </button>
          </div>
        ) : null}
      </div>
      <p className="mb-6 max-w-2xl text-quiet">
        What people gather for, on your clock ({zoneWords(zone)}). Say whether you come; it can be changed
        until it is over. Your own calendar can follow it, by the address under{' '}
        <a className="link-quiet" href="/settings#sessions-feed">
          Settings
        </a>
        .
      </p>
      {looksAfter ? (
        <label className="mb-4 flex min-h-11 w-fit items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={all}
            onChange={(event) => setAll(event.target.checked)}
          />
          Also those that are not for me
        </label>
      ) : null}
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {days.length === 0 ? (
        <p className="border-y border-base-300 py-4 text-quiet">
          {looksAfter
            ? 'Nothing is in the calendar. Put in the first session: a drill, a harvest day, a weekly exchange.'
            : 'Nothing is ahead that is for you. When there is, it stands here, and you are told.'}
        </p>
      ) : null}
      {days.map(([day, of]) => (
        <section key={day} className="mb-6" aria-labelledby={`day-${day}`}>
          <h2 id={`day-${day}`} className="border-b-2 border-base-300 pb-1 text-lg">
            {dateWords(of[0]?.startMs ?? 0, zone, now)}
          </h2>
          <ul aria-labelledby={`day-${day}`}>
            {of.map((date) => (
              <li key={date.id} className="border-b border-base-300">
                <DateEntry
                  date={date}
                  zone={zone}
                  nowMs={now}
                  looksAfter={looksAfter}
                  onSaid={() => void refetch()}
                />
              </li>
            ))}
          </ul>
        </section>
      ))}
      {hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline"
          disabled={isFetchingNextPage}
          onClick={() => void fetchNextPage()}
        >
          Further ahead
        </button>
      ) : null}
      {making && choices ? (
        <SessionForm
          session={null}
          zone={zone}
          nowMs={now}
          choices={choices}
          onClose={() => setMaking(false)}
          onDone={(id) => location.assign(`/calendar/${id}`)}
        />
      ) : null}
    </Awake>
  );
}
