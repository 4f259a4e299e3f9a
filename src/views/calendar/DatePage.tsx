import { useMemo } from 'react';
import type { ShownDate } from '../../core/calendar/shown.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { useNow } from '../../ui/useNow.ts';
import { DateEntry } from './DateEntry.tsx';

/** One date of a session, for whoever is told of it. */
export default function DatePage({
  first,
  zone,
  nowMs,
  looksAfter,
}: {
  first: ShownDate;
  zone: string;
  nowMs: number;
  looksAfter: boolean;
}) {
  const path = `/api/calendar/dates/${first.id}` as const;
  const topics = useMemo(() => ['calendar'], []);
  const { data: date = first, error } = useServer(path, { first, topics });
  const now = useNow(nowMs, 60_000);
  return (
    <Awake>
      <p className="mb-1">
        <a className="link-quiet" href="/calendar">
          Calendar
        </a>
      </p>
      <h1 dir="auto">{date.title}</h1>
      <p className="mt-1 mb-4 text-lg">
        <strong className={date.calledOff ? 'line-through' : ''}>
          {momentWords(date.startMs, zone, now)}
        </strong>
        {date.zone === zone ? null : (
          <span className="block text-sm text-quiet">
            {momentWords(date.startMs, date.zone, now)} in {zoneWords(date.zone)}
          </span>
        )}
      </p>
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      <DateEntry
        date={date}
        zone={zone}
        nowMs={now}
        looksAfter={looksAfter}
        alone
        onSaid={() => void refetch(path)}
      />
      {looksAfter ? (
        <p className="mt-6">
          <a className="btn btn-outline btn-sm" href={`/calendar/${date.sessionId}`}>
            Look after it
          </a>
        </p>
      ) : null}
    </Awake>
  );
}
