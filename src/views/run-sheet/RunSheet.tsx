import { useCallback, useEffect, useRef, useState } from 'react';
import type { Desk, Strain } from '../../core/desk/desk.ts';
import type { RunSheetRow } from '../../core/sends/send.ts';
import { dayAround } from '../../core/timing/day.ts';
import { dateWords, shortDate, zoneWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { ask } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { lazily } from '../../ui/lazily.tsx';
import { daysOf, Timeline, type LaneBy } from './Timeline.tsx';
import { type Move, Rows, byDay } from './Rows.tsx';
import { NeedsYou } from './NeedsYou.tsx';

const MoveDialog = lazily(() => import('./MoveDialog.tsx').then((module) => module.MoveDialog));

const SPANS = { day: 1, week: 7, fortnight: 14 } as const;
type Span = keyof typeof SPANS;
const LANE_WORDS: Record<LaneBy, string> = { audience: 'audience', board: 'board', author: 'author' };

/** A stretch of time, and what of it is shown. */
interface View {
  span: Span;
  /** Any instant on its first day. */
  fromMs: number;
  by: LaneBy;
  zone: string;
  search: string;
  state: '' | RunSheetRow['state'];
}

/**
 * The first desk screen: what goes out on an axis of time and in words, today or over the days around it, and what needs
 * somebody.
 */
export default function RunSheet({ desk: first }: { desk: Desk }) {
  const [desk, setDesk] = useState(first);
  const [view, setView] = useState<View>({
    span: 'day',
    fromMs: first.nowMs,
    by: 'audience',
    zone: first.zone,
    search: '',
    state: '',
  });
  const [rows, setRows] = useState(first.rows);
  const [strain, setStrain] = useState<Strain | null>(null);
  const [moving, setMoving] = useState<{ row: RunSheetRow; toMs: number } | null>(null);
  const [said, setSaid] = useState<string>();
  const awake = useAwake();
  const { nowMs } = desk;
  const { zone } = view;
  const days = daysOf(view.fromMs, SPANS[view.span], zone);
  const fromMs = days[0]?.startMs ?? nowMs;
  const toMs = days.at(-1)?.endMs ?? nowMs;
  const stretch = `from=${fromMs}&to=${toMs}`;

  const refetch = useCallback(
    (isCurrent: () => boolean): Promise<void> =>
      Promise.all([
        ask<RunSheetRow[]>('GET', `/api/run-sheet?${stretch}`),
        ask<Strain>('GET', `/api/run-sheet/strain?${stretch}`),
      ]).then(
        ([found, strained]) => {
          if (!isCurrent()) return;
          setRows(found);
          setStrain(strained);
        },
        // What was shown stays; the next change tries again.
        () => undefined,
      ),
    [stretch],
  );
  useEffect(() => {
    let current = true;
    void refetch(() => current);
    return () => {
      current = false;
    };
  }, [refetch]);
  const wanted = useRef(stretch);
  useEffect(() => {
    wanted.current = stretch;
  });
  const refresh = async (): Promise<void> => {
    await Promise.all([
      ask<Desk>('GET', '/api/run-sheet').then(setDesk, () => undefined),
      // What comes late is of the stretch it was asked for, and is not shown in another.
      refetch(() => wanted.current === stretch),
    ]);
  };
  useLive(['desk'], () => void refresh());

  const set = (part: Partial<View>): void => setView({ ...view, ...part });
  const step = (by: number): void => {
    const day = dayAround(view.fromMs, zone, by * SPANS[view.span]);
    set({ fromMs: day.startMs + 1 });
  };
  const shown = rows.filter(
    (row) =>
      row.dueMs < toMs &&
      row.endsMs >= fromMs &&
      (view.state === '' || row.state === view.state) &&
      (view.search.trim() === '' ||
        `${row.title} ${row.whom} ${row.author} ${row.boards.join(' ')}`
          .toLowerCase()
          .includes(view.search.trim().toLowerCase())),
  );
  const { today } = desk;
  const todays = desk.rows.filter((row) => row.dueMs >= today.startMs && row.dueMs < today.endMs);
  const ahead = todays.filter((row) => row.state === 'scheduled').length;
  const sent = todays.filter((row) => row.state === 'sent' || row.state === 'going out').length;
  const onMove: Move = (row, to) => setMoving({ row, toMs: to });

  return (
    <fieldset disabled={!awake} className="contents">
      <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_19rem]">
        <div className="min-w-0">
          <div className="mb-3 flex flex-wrap items-end justify-between gap-4">
            <div>
              <h1>
                {view.span === 'day'
                  ? dateWords(fromMs + 1, zone, nowMs)
                  : `${shortDate(fromMs + 1, zone)} to ${shortDate(toMs - 1, zone)}`}
              </h1>
              <p className="text-quiet">
                {todays.length === 0
                  ? 'Nothing goes out today.'
                  : `Today ${sent === 0 ? 'nothing has' : `${sent} ${sent === 1 ? 'has' : 'have'}`} gone out and ${ahead} ${ahead === 1 ? 'is' : 'are'} still to go.`}
              </p>
            </div>
            <div className="flex flex-wrap items-center gap-2">
              <div role="group" aria-label="How long" className="flex border border-base-300 bg-base-100">
                {(Object.keys(SPANS) as Span[]).map((span) => (
                  <button
                    key={span}
                    type="button"
                    aria-pressed={view.span === span}
                    className="min-h-11 px-3 capitalize aria-pressed:bg-base-300 aria-pressed:font-semibold"
                    onClick={() => set({ span })}
                  >
                    {span}
                  </button>
                ))}
              </div>
              <button type="button" className="btn btn-outline" onClick={() => step(-1)}>
                Before
              </button>
              <button type="button" className="btn btn-outline" onClick={() => set({ fromMs: nowMs })}>
                Today
              </button>
              <button type="button" className="btn btn-outline" onClick={() => step(1)}>
                After
              </button>
              <a href="/write" className="btn btn-primary">
                Write
              </a>
            </div>
          </div>
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
          <div className="mb-3 flex flex-wrap items-end gap-3 text-sm">
            <label className="flex flex-col gap-1">
              Lanes by
              <select
                className="select"
                value={view.by}
                onChange={(event) => set({ by: event.target.value as LaneBy })}
              >
                {(Object.keys(LANE_WORDS) as LaneBy[]).map((by) => (
                  <option key={by} value={by}>
                    {LANE_WORDS[by]}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex flex-col gap-1">
              Clock
              <select className="select" value={zone} onChange={(event) => set({ zone: event.target.value })}>
                <option value={desk.zone}>mine ({zoneWords(desk.zone)})</option>
                <option value="UTC">UTC</option>
                {desk.stations
                  .filter((station) => station.zone !== desk.zone)
                  .map((station) => (
                    <option key={station.name} value={station.zone}>
                      {station.name}
                    </option>
                  ))}
              </select>
            </label>
            <label className="flex flex-col gap-1">
              State
              <select
                className="select"
                value={view.state}
                onChange={(event) => set({ state: event.target.value as View['state'] })}
              >
                <option value="">all</option>
                {(['scheduled', 'going out', 'sent', 'recalled', 'failed'] as const).map((state) => (
                  <option key={state}>{state}</option>
                ))}
              </select>
            </label>
            <label className="flex grow flex-col gap-1">
              Find
              <input
                type="search"
                className="input w-full"
                value={view.search}
                onChange={(event) => set({ search: event.target.value })}
              />
            </label>
          </div>
          {said === undefined ? null : (
            <div className="mb-3">
              <Notice tone="warning">{said}</Notice>
            </div>
          )}
          <section aria-label="On the axis of time" className="mb-8">
            <Timeline
              rows={shown}
              days={days}
              by={view.by}
              zone={zone}
              nowMs={nowMs}
              strain={strain}
              onMove={onMove}
            />
            {strain && strain.days.some((day) => day.over > 0) ? (
              <p className="mt-2 text-sm text-warning">
                {strain.days
                  .filter((day) => day.over > 0)
                  .map(
                    (day) =>
                      `${shortDate(day.startMs + 1, zone)}: ${people(day.over)} get more than three things`,
                  )
                  .join('; ')}
                .
              </p>
            ) : null}
          </section>
          <section aria-label="In words">
            {view.span === 'day' ? (
              <Rows
                rows={shown}
                zone={zone}
                fromMs={fromMs}
                empty="Nothing goes out on this day."
                onMove={onMove}
              />
            ) : (
              byDay(shown, zone).map(([day, list]) => (
                <div key={day} className="mb-4">
                  <h2 className="mb-1 text-base text-quiet">{day}</h2>
                  <Rows rows={list} zone={zone} fromMs={fromMs} empty="" onMove={onMove} />
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
            void refresh();
          }}
        />
      ) : null}
    </fieldset>
  );
}
