import { useCallback, useEffect, useState } from 'react';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import type { Desk, Strain } from '../../core/desk/desk.ts';
import type { RunSheetRow } from '../../core/sends/send.ts';
import { dayAround } from '../../core/timing/day.ts';
import {
  dateWords,
  momentWords,
  shortDate,
  spanWords,
  timeWords,
  zoneWords,
} from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';
import { SetAside } from './SetAside.tsx';
import { ask } from '../../ui/api.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { MoveDialog } from './MoveDialog.tsx';
import { daysOf, Timeline, type LaneBy } from './Timeline.tsx';

function Outcome({ row }: { row: RunSheetRow }) {
  const said = [
    row.inbox > 0 ? people(row.inbox) : '',
    row.waiting > 0 ? `${count(row.waiting, 'mail', 'mails')} waiting` : '',
    row.resting > 0 ? `${row.resting} at rest` : '',
    row.failed > 0 ? `${row.failed} failed` : '',
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

type Move = (row: RunSheetRow, toMs: number) => void;

function Rows({
  rows,
  zone,
  fromMs,
  empty,
  onMove,
}: {
  rows: RunSheetRow[];
  zone: string;
  /** What began before this is shown with its date. */
  fromMs: number;
  empty: string;
  onMove: Move;
}) {
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
            <a
              className="link-quiet font-semibold"
              href={`/sends/${row.projectedFrom ?? row.occurrenceId}`}
              dir="auto"
            >
              {row.title}
            </a>{' '}
            <ImportanceWord importance={row.importance} />
            <p className="text-sm text-quiet">
              {row.brief}
              {row.endsMs > row.dueMs
                ? ` By each reader’s clock, the last at ${momentWords(row.endsMs, zone)}.`
                : ''}
              {row.projectedFrom === null ? '' : ' By its rule; it is planned when it comes nearer.'}
              {row.recurs && row.projectedFrom === null
                ? row.recurs.state === 'paused'
                  ? ' It recurs, and is paused.'
                  : ' It recurs.'
                : ''}
            </p>
            {row.roll && row.roll.asked > 0 ? (
              <a href={`/answers/${row.occurrenceId}`} className="mt-1 block max-w-xs text-sm">
                <FillLine tally={row.roll} height={5} />
                <span className="link-quiet">{tallyWords(row.roll)}</span>
              </a>
            ) : null}
          </div>
          <div className="state">
            <Outcome row={row} />
            {row.movable ? (
              <button
                type="button"
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

function byDay(rows: RunSheetRow[], zone: string): [string, RunSheetRow[]][] {
  const days = new Map<string, RunSheetRow[]>();
  for (const row of rows) {
    const day = dateWords(row.dueMs, zone);
    days.set(day, [...(days.get(day) ?? []), row]);
  }
  return [...days];
}

function NeedsYou({ desk }: { desk: Desk }) {
  const { needs, drafts, engine, zone, nowMs, reviews, calls, behind, hollow, boards, stale, questions } =
    desk;
  const { aside } = desk;
  return (
    <aside aria-labelledby="needs" className="lg:border-l lg:border-base-300 lg:pl-6">
      <h2 id="needs">Needs you</h2>
      {engine.running === 0 ? (
        <div className="mt-3">
          <Notice tone="error">No engine is running: nothing goes out until one is started.</Notice>
        </div>
      ) : null}
      {engine.mailPaused === null ? null : (
        <div className="mt-3">
          <Notice tone="warning">Mail is waiting and will go by itself. {engine.mailPaused}</Notice>
        </div>
      )}
      <ul className="mt-3">
        {needs.map((need) => (
          <li key={`${need.occurrenceId}${need.state}`} className="border-t border-base-300 py-2">
            <a href={`/sends/${need.occurrenceId}`} className="link-quiet" dir="auto">
              {need.title}
            </a>
            <p className={need.state === 'failed' ? 'text-error' : 'text-warning'}>
              {need.state === 'failed'
                ? `${count(need.n, 'mail', 'mails')} failed; the inbox has it`
                : `${count(need.n, 'mail', 'mails')} waiting`}
            </p>
          </li>
        ))}
        {aside.map((each) => (
          <SetAside key={`${each.kind}${each.subjectId}`} aside={each} zone={zone} nowMs={nowMs} />
        ))}
        {hollow.map((each) => (
          <li key={each.occurrenceId} className="border-t border-base-300 py-2">
            <a href={`/sends/${each.occurrenceId}`} className="link-quiet" dir="auto">
              {each.title}
            </a>
            <p className="text-error">{each.why}</p>
          </li>
        ))}
        {boards.map((board) => (
          <li key={`b${board.id}`} className="border-t border-base-300 py-2">
            <a href={`/boards/${board.id}`} className="link-quiet" dir="auto">
              {board.name}
            </a>
            <p className="text-warning">
              {count(board.waiting, 'post or report waits', 'posts and reports wait')} for a moderator
            </p>
          </li>
        ))}
        {questions > 0 ? (
          <li className="border-t border-base-300 py-2">
            <a href="/shelf/desk" className="link-quiet">
              The shelf
            </a>
            <p className="text-warning">
              {count(questions, 'question waits', 'questions wait')} for an answer
            </p>
          </li>
        ) : null}
        {stale.map((pin) => (
          <li key={`s${pin.postId}`} className="border-t border-base-300 py-2">
            <a href={`/posts/${pin.postId}`} className="link-quiet" dir="auto">
              {pin.title}
            </a>
            <p className="text-sm text-quiet">
              Pinned on {pin.board} since {shortDate(pin.pinnedMs, zone)}: does it still hold?
            </p>
          </li>
        ))}
        {reviews.map((review) => (
          <li key={review.id} className="border-t border-base-300 py-2">
            <a href={`/write/${review.id}`} className="link-quiet" dir="auto">
              {review.title || 'Without a title'}
            </a>
            <p className="text-warning">{review.by} hands it on: clear it, or return it</p>
          </li>
        ))}
        {calls.map((call, i) => (
          <li key={i} className="border-t border-base-300 py-2">
            <a href={`/write/${call.announcementId}`} className="link-quiet" dir="auto">
              {call.author} calls you
            </a>
            <p className="line-clamp-2 text-sm text-quiet" dir="auto">
              {call.text}
            </p>
          </li>
        ))}
        {behind.map((roll) => (
          <li key={roll.occurrenceId} className="border-t border-base-300 py-2">
            <a href={`/answers/${roll.occurrenceId}`} className="link-quiet" dir="auto">
              {roll.title}
            </a>
            <p className="text-warning">
              {tallyWords(roll.tally)}, by {momentWords(roll.deadlineMs, zone, nowMs)}
            </p>
          </li>
        ))}
      </ul>
      {needs.length +
        aside.length +
        hollow.length +
        reviews.length +
        calls.length +
        behind.length +
        boards.length +
        stale.length +
        questions ===
        0 && engine.running > 0 ? (
        <p className="text-quiet">Nothing failed, nothing is late.</p>
      ) : null}
      <h3 className="mt-6 text-base">Drafts</h3>
      {drafts.length === 0 ? (
        <p className="text-quiet">No drafts.</p>
      ) : (
        <ul className="mt-2">
          {drafts.slice(0, 8).map((draft) => (
            <li key={draft.id} className="border-t border-base-300 py-2">
              <a href={`/write/${draft.id}`} className="link-quiet" dir="auto">
                {draft.title || 'Without a title'}
              </a>
              <p className="text-sm text-quiet">
                {draft.savedBy}, {momentWords(draft.savedMs, zone, nowMs)}
              </p>
            </li>
          ))}
        </ul>
      )}
    </aside>
  );
}

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
  const refresh = async (): Promise<void> => {
    await Promise.all([
      ask<Desk>('GET', '/api/run-sheet').then(setDesk, () => undefined),
      refetch(() => true),
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
