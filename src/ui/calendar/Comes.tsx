import type { Said } from '../../core/calendar/session.ts';
import type { ShownDate } from '../../core/calendar/shown.ts';
import { comingWords, MINE_WORDS, SAY_WORDS } from '../../core/calendar/words.ts';
import { request } from '../api.ts';
import { Notice } from '../Notice.tsx';
import { useActs } from '../useActs.ts';

const ALL: readonly Said[] = ['yes', 'perhaps', 'no'];

/** Whether the reader comes to a date of the calendar: said in one press, and taken back by the same. */
export function Comes({
  date,
  nowMs,
  onSaid,
}: {
  date: ShownDate;
  nowMs: number;
  onSaid: (date: ShownDate) => void;
}) {
  const { busy, error, act } = useActs();
  const over = date.startMs + date.minutes * 60_000 <= nowMs;
  const chosen: Said | null = date.mine === 'waiting' ? 'yes' : date.mine;
  const say = (said: Said) =>
    act(async () =>
      onSaid(
        await request('PUT', `/api/calendar/dates/${date.id}/said`, {
          said: said === chosen ? null : said,
        }),
      ),
    );
  return (
    <div>
      {date.calledOff || over || !date.invited ? null : (
        <div className="flex flex-wrap gap-2" role="group" aria-label={`Do you come: ${date.title}`}>
          {ALL.map((said) => (
            <button
              key={said}
              type="button"
              className={`btn btn-sm ${chosen === said ? 'btn-primary' : 'btn-outline'}`}
              aria-pressed={chosen === said}
              disabled={busy}
              onClick={say(said)}
            >
              {SAY_WORDS[said]}
            </button>
          ))}
        </div>
      )}
      <p className="mt-1 text-sm text-quiet" role="status">
        {date.mine === null || date.calledOff ? '' : `${MINE_WORDS[date.mine]} `}
        {comingWords(date)}.
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </div>
  );
}
