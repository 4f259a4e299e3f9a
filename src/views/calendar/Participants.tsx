import { useMemo, useState } from 'react';
import { STANDS, STANDS_WORDS, type Stands } from '../../core/audience/stands.ts';
import type { ParticipantPage, ShownDate } from '../../core/calendar/shown.ts';
import { newGroupOf } from '../../core/groups/fromAudience.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServerPages } from '../../ui/server.ts';
import { useActs } from '../../ui/useActs.ts';

type Shown = Stands | 'silent' | 'all';
type Cursor = NonNullable<ParticipantPage['next']>;

const WORDS: Record<Stands | 'silent', string> = {
  yes: 'come',
  waiting: 'wait for a place',
  perhaps: 'perhaps',
  no: 'do not come',
  silent: 'have said nothing',
};

/** Whom a date is for and what each has said, with what can be made of those who come. */
export function Participants({ date, zone, nowMs }: { date: ShownDate; zone: string; nowMs: number }) {
  const [shown, setShown] = useState<Shown>('yes');
  const { busy, error: failed, act } = useActs();
  const path = (after: Cursor | null) => {
    const query = new URLSearchParams({
      stands: shown,
      ...(after ? { name: after.name, personId: String(after.personId) } : {}),
    });
    return `/api/calendar/dates/${date.id}/people?${query.toString()}` as const;
  };
  const topics = useMemo(() => [`session:${date.sessionId}`], [date.sessionId]);
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useServerPages({
    path,
    next: (page) => page.next,
    topics,
  });
  const counts = data?.pages[0]?.counts;
  const people = data?.pages.flatMap((page) => page.people) ?? [];
  return (
    <div className="mt-3 border-l-4 border-base-300 pl-4">
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-1 text-sm">
          Those who
          <select
            className="select"
            value={shown}
            onChange={(event) => setShown(event.target.value as Shown)}
          >
            {[...STANDS, 'silent' as const].map((each) => (
              <option key={each} value={each}>
                {WORDS[each]} {counts ? `(${counts[each].toLocaleString('en-GB')})` : ''}
              </option>
            ))}
            <option value="all">it is for</option>
          </select>
        </label>
        <a className="btn btn-ghost btn-sm" href={`/api/calendar/dates/${date.id}/people.csv`}>
          All as CSV
        </a>
        {STANDS.some((each) => each === shown) ? (
          <a
            className="btn btn-ghost btn-sm"
            href={newGroupOf({ kind: 'session', dateId: date.id, stands: shown as Stands })}
          >
            A group of these
          </a>
        ) : null}
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={busy}
          onClick={act(async () => {
            const board = await request('POST', `/api/calendar/dates/${date.id}/board`);
            location.assign(`/boards/${board.id}`);
          })}
        >
          A board for those who come
        </button>
      </div>
      {failed === undefined ? null : <Notice tone="error">{failed}</Notice>}
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {data && people.length === 0 ? <p className="py-2 text-quiet">Nobody.</p> : null}
      <ul className="mt-2">
        {people.map((person) => (
          <li
            key={person.personId}
            className="flex flex-wrap gap-x-3 border-b border-base-300 py-1.5 text-sm"
            dir="auto"
          >
            <a className="link-quiet font-semibold" href={`/person/${person.personId}`}>
              {person.name}
            </a>
            <span className="grow text-quiet">{person.detail}</span>
            <span>{person.stands === null ? 'nothing said' : STANDS_WORDS[person.stands]}</span>
            {person.saidMs === null ? null : <Moment at={person.saidMs} zone={zone} nowMs={nowMs} />}
          </li>
        ))}
      </ul>
      {hasNextPage ? (
        <button
          type="button"
          className="btn btn-ghost btn-sm mt-2"
          disabled={isFetchingNextPage}
          onClick={() => void fetchNextPage()}
        >
          More
        </button>
      ) : null}
    </div>
  );
}
