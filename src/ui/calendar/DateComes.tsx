import { useMemo } from 'react';
import { ApiProblem, wordsOf } from '../api.ts';
import { Awake } from '../Awake.tsx';
import { Notice } from '../Notice.tsx';
import { refetch, useServer } from '../server.ts';
import { useNow } from '../useNow.ts';
import { Comes } from './Comes.tsx';

const EVERY_MS = 60_000;

/** Under the event of an announcement that is a date of the calendar: whether its reader comes. Nothing where it is not for them. */
export default function DateComes({
  dateId,
  startMs,
  nowMs,
}: {
  dateId: number;
  /** When it is as the announcement tells it, in milliseconds since 1970. */
  startMs: number;
  nowMs: number;
}) {
  const path = `/api/calendar/dates/${dateId}` as const;
  const topics = useMemo(() => ['calendar'], []);
  const { data: date, error } = useServer(path, { topics });
  const now = useNow(nowMs, EVERY_MS);
  // Whom it is not for, and a linked contact who is not signed in, read the announcement without it.
  if (error instanceof ApiProblem && (error.status === 404 || error.status === 401)) return null;
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (!date || (!date.invited && !date.calledOff)) return null;
  return (
    <Awake>
      <div className="mt-3 border-l-4 border-secondary pl-4">
        {date.calledOff ? (
          <p>
            <strong className="text-error">Called off.</strong> <span dir="auto">{date.note}</span>
          </p>
        ) : date.startMs === startMs ? null : (
          <p className="text-warning">
            It has been moved since this was written:{' '}
            <a className="link-quiet" href={`/calendar/dates/${date.id}`}>
              see when it is now
            </a>
            .
          </p>
        )}
        <Comes date={date} nowMs={now} onSaid={() => void refetch(path)} />
      </div>
    </Awake>
  );
}
