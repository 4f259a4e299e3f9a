import { LATE_MS } from '../../core/delivery/lateness.ts';
import { askingKind } from '../../core/asks/askWords.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import { rowAddress, type RunSheetRow } from '../../core/sends/send.ts';
import { dateWords, nearWords, shortDate, spanWords, timeWords } from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { StateMark } from '../../ui/StateMark.tsx';

function Outcome({ row }: { row: RunSheetRow }) {
  const said = [
    row.inbox > 0 ? people(row.inbox) : '',
    row.waiting > 0 ? `${count(row.waiting, 'mail', 'mails')} waiting` : '',
    row.resting > 0 ? `${row.resting} at rest` : '',
    row.failed > 0 ? `${row.failed} failed` : '',
    row.outside > 0 ? `${count(row.outside, 'outside place has', 'outside places have')} it` : '',
  ].filter(Boolean);
  const late = row.worstLateMs !== null && row.state !== 'scheduled' ? row.worstLateMs : null;
  return (
    <>
      <StateMark state={row.state} />
      <span className="block text-sm text-quiet">{said.join(', ')}</span>
      {late === null ? null : (
        <span className={`block text-sm ${late > 60_000 ? 'text-error' : 'text-quiet'}`}>
          {late <= LATE_MS ? 'on time' : `last one after ${spanWords(late)}`}
        </span>
      )}
    </>
  );
}

export type Move = (row: RunSheetRow, toMs: number) => void;

export function Rows({
  rows,
  zone,
  fromMs,
  nowMs,
  empty,
  onMove,
}: {
  rows: RunSheetRow[];
  zone: string;
  /** What began before this is shown with its date. */
  fromMs: number;
  nowMs: number;
  empty: string;
  onMove: Move;
}) {
  const awake = useAwake();
  if (rows.length === 0) return <p className="border-y border-base-300 py-3 text-quiet">{empty}</p>;
  return (
    <ul className="ledger">
      {rows.map((row) => (
        <li key={row.occurrenceId}>
          <time
            className="margin"
            dateTime={new Date(row.dueMs).toISOString()}
            title={`${timeWords(row.dueMs, 'UTC')} UTC`}
          >
            {timeWords(row.dueMs, zone)}
            {row.dueMs < fromMs ? (
              <span className="block text-xs text-quiet">{shortDate(row.dueMs, zone)}</span>
            ) : null}
          </time>
          <div>
            <a className="link-quiet font-semibold" href={rowAddress(row)} dir="auto">
              {row.title}
            </a>{' '}
            <ImportanceWord importance={row.importance} />
            <p className="text-sm text-quiet">
              {row.brief}
              {row.endsMs > row.dueMs
                ? ` By each reader’s clock, the last ${nearWords(row.endsMs, zone, nowMs)}.`
                : ''}
              {row.projectedFrom === null ? '' : ' By its rule; it is planned when it comes nearer.'}
              {row.automationId === null ? '' : ' By itself: what it will say is known only then.'}
              {row.recurs && row.projectedFrom === null
                ? row.recurs.state === 'paused'
                  ? ' It recurs, and is paused.'
                  : ' It recurs.'
                : ''}
            </p>
            {row.roll && row.roll.asked > 0 ? (
              <a href={`/answers/${row.occurrenceId}`} className="mt-1 block max-w-xs text-sm">
                <FillLine tally={row.roll} height={5} />
                <span className="link-quiet">{tallyWords(row.roll, askingKind(row.asks))}</span>
              </a>
            ) : null}
          </div>
          <div className="state">
            <Outcome row={row} />
            {row.movable ? (
              <button
                type="button"
                disabled={!awake}
                className="btn btn-ghost btn-sm -ml-3"
                aria-label={`Move ${row.title} of ${timeWords(row.dueMs, zone)}`}
                onClick={() => onMove(row, row.dueMs)}
              >
                Move
              </button>
            ) : null}
          </div>
        </li>
      ))}
    </ul>
  );
}

export function byDay(rows: RunSheetRow[], zone: string): [string, RunSheetRow[]][] {
  const days = new Map<string, RunSheetRow[]>();
  for (const row of rows) {
    const day = dateWords(row.dueMs, zone);
    days.set(day, [...(days.get(day) ?? []), row]);
  }
  return [...days];
}
