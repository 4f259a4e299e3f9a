import { memo, useCallback, useMemo, useState } from 'react';
import type { Desk, Strain } from '../../core/desk/desk.ts';
import { isOverdue, type RunSheetRow } from '../../core/sends/send.ts';
import { dayAround } from '../../core/timing/day.ts';
import { dateWords, shortDate } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { Controls } from './Controls.tsx';
import { NeedsYou as NeedsYouNow } from './NeedsYou.tsx';
import { type Move, Rows as RowsNow, byDay } from './Rows.tsx';
import { Timeline as TimelineNow } from './Timeline.tsx';
import { daysOf } from './timelineParts.ts';
import { SPANS, viewInAddress, type View } from '../../core/desk/runSheetView.ts';

const MoveDialog = lazily(() => import('./MoveDialog.tsx').then((module) => module.MoveDialog));

/** The parts of the sheet: what one of them does not show makes it no more work. */
const [NeedsYou, Rows, Timeline] = [memo(NeedsYouNow), memo(RowsNow), memo(TimelineNow)];

const PATH = '/api/run-sheet';
const TOPICS = ['desk'];

/** What of some rows is of a period and answers to the filters of a view. */
const shownOf = (rows: readonly RunSheetRow[], view: View, fromMs: number, toMs: number): RunSheetRow[] =>
  rows.filter(
    (row) =>
      row.dueMs < toMs &&
      row.endsMs >= fromMs &&
      (view.state === '' || row.state === view.state) &&
      (view.search.trim() === '' ||
        `${row.title} ${row.whom} ${row.author} ${row.boards.join(' ')}`
          .toLowerCase()
          .includes(view.search.trim().toLowerCase())),
  );

/** How many have gone out today and are still to go, in words. */
function todayWords({ rows, today }: Desk): string {
  const todays = rows.filter((row) => row.dueMs >= today.startMs && row.dueMs < today.endMs);
  const ahead = todays.filter((row) => row.state === 'scheduled').length;
  const sent = todays.filter((row) => row.state === 'sent' || row.state === 'going out').length;
  return todays.length === 0
    ? 'Nothing goes out today.'
    : `Today ${sent === 0 ? 'nothing has' : `${sent} ${sent === 1 ? 'has' : 'have'}`} gone out and ${ahead} ${ahead === 1 ? 'is' : 'are'} still to go.`;
}

/** On which days many get more than they should. */
function Overload({ strain, zone }: { strain: Strain | undefined; zone: string }) {
  const over = strain?.days.filter((day) => day.over > 0) ?? [];
  if (over.length === 0) return null;
  return (
    <p className="mt-2 text-sm text-warning">
      {over
        .map((day) => `${shortDate(day.startMs + 1, zone)}: ${people(day.over)} get more than three things`)
        .join('; ')}
      .
    </p>
  );
}

/**
 * The first desk screen: what goes out on an axis of time and in words, today or over the days around it, and what needs
 * somebody.
 */
export default function RunSheet({ desk: first, view: firstView }: { desk: Desk; view: View }) {
  const { data: desk = first } = useServer(PATH, { first, topics: TOPICS });
  const [view, setView] = useState(firstView);
  const [moving, setMoving] = useState<{ row: RunSheetRow; toMs: number } | null>(null);
  const [said, setSaid] = useState<string>();
  const { nowMs } = desk;
  const { zone } = view;
  const days = useMemo(() => daysOf(view.fromMs, SPANS[view.span], zone), [view.fromMs, view.span, zone]);
  const fromMs = days[0]?.startMs ?? nowMs;
  const toMs = days.at(-1)?.endMs ?? nowMs;
  const period = `from=${fromMs}&to=${toMs}`;
  const covered = fromMs >= desk.covers.fromMs && toMs <= desk.covers.toMs;
  const { data: further = desk.rows } = useServer(covered ? null : `${PATH}/rows?${period}`, {
    topics: TOPICS,
    keepPrevious: true,
  });
  const rows = covered ? desk.rows : further;
  const { data: strain } = useServer(`${PATH}/strain?${period}`, {
    topics: TOPICS,
    keepPrevious: true,
  });
  useInAddress(viewInAddress(view, desk));

  const set = (part: Partial<View>): void => setView((now) => ({ ...now, ...part }));
  const { shown, late, inTime } = useMemo(() => {
    const found = shownOf(rows, view, fromMs, toMs);
    const overdue = found.filter((row) => isOverdue(row, nowMs));
    return { shown: found, late: overdue, inTime: found.filter((row) => !overdue.includes(row)) };
  }, [rows, view, fromMs, toMs, nowMs]);
  const onMove = useCallback<Move>((row, to) => setMoving({ row, toMs: to }), []);

  return (
    <>
      <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_19rem]">
        <div className="min-w-0">
          <div className="mb-2 flex flex-wrap items-baseline gap-x-4">
            <h1>
              {view.span === 'day'
                ? dateWords(fromMs + 1, zone, nowMs)
                : `${shortDate(fromMs + 1, zone)} to ${shortDate(toMs - 1, zone)}`}
            </h1>
            <p className="text-quiet">{todayWords(desk)}</p>
          </div>
          <Awake>
            <Controls
              view={view}
              own={first}
              stations={desk.stations}
              onSet={set}
              onStep={(by) =>
                set({ fromMs: dayAround(view.fromMs, zone, by * SPANS[view.span]).startMs + 1 })
              }
              onToday={() => set({ fromMs: nowMs })}
            />
          </Awake>
          {desk.rows.length === 0 && desk.drafts.length === 0 ? (
            <p className="mb-4 max-w-2xl">
              This is where everything that goes out stands, in order of time. First{' '}
              <a className="link-quiet" href="/people">
                add the people
              </a>{' '}
              you want to reach, then{' '}
              <a className="link-quiet" href="/write">
                write
              </a>{' '}
              to them.
            </p>
          ) : null}
          {said === undefined ? null : (
            <div className="mb-3">
              <Notice tone="warning">{said}</Notice>
            </div>
          )}
          {late.length > 0 ? (
            <section aria-labelledby="late" className="mb-6 border-l-4 border-error bg-base-100 px-3 pt-2">
              <h2 id="late" className="text-base text-error">
                {late.length === 1 ? 'One is late' : `${late.length} are late`}
              </h2>
              <Rows rows={late} zone={zone} fromMs={fromMs} nowMs={nowMs} empty="" onMove={onMove} />
            </section>
          ) : null}
          <section aria-label="On the axis of time" className="mb-8">
            <Timeline
              rows={shown}
              days={days}
              by={view.by}
              zone={zone}
              nowMs={nowMs}
              strain={strain ?? null}
              onMove={onMove}
            />
            <Overload strain={strain} zone={zone} />
          </section>
          <section aria-label="In words">
            {view.span === 'day' ? (
              <Rows
                rows={inTime}
                zone={zone}
                fromMs={fromMs}
                nowMs={nowMs}
                empty="Nothing goes out on this day."
                onMove={onMove}
              />
            ) : (
              byDay(inTime, zone).map(([day, list]) => (
                <div key={day} className="mb-4">
                  <h2 className="mb-1 text-base text-quiet">{day}</h2>
                  <Rows rows={list} zone={zone} fromMs={fromMs} nowMs={nowMs} empty="" onMove={onMove} />
                </div>
              ))
            )}
          </section>
        </div>
        <NeedsYou desk={desk} />
      </div>
      {moving ? (
        <MoveDialog
          row={moving.row}
          toMs={moving.toMs}
          zone={zone}
          nowMs={nowMs}
          onClose={() => setMoving(null)}
          onDone={(warnings) => {
            setMoving(null);
            setSaid(warnings.length > 0 ? warnings.join(' ') : undefined);
            void refetch(PATH);
          }}
        />
      ) : null}
    </>
  );
}
