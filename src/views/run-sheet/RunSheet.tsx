import { useState } from 'react';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import type { Desk } from '../../core/desk/desk.ts';
import type { RunSheetRow } from '../../core/sends/send.ts';
import { dateWords, momentWords, spanWords, timeWords } from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';
import { ask } from '../../ui/api.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { useLive } from '../../ui/useLive.ts';

function Outcome({ row }: { row: RunSheetRow }) {
  const said = [
    row.inbox > 0 ? people(row.inbox) : '',
    row.waiting > 0 ? `${count(row.waiting, 'mail', 'mails')} waiting` : '',
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

function Rows({ rows, zone, empty }: { rows: RunSheetRow[]; zone: string; empty: string }) {
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
          </time>
          <div>
            <a className="link-quiet font-semibold" href={`/sends/${row.occurrenceId}`} dir="auto">
              {row.title}
            </a>{' '}
            <ImportanceWord importance={row.importance} />
            <p className="text-sm text-quiet">{row.brief}</p>
            {row.roll && row.roll.asked > 0 ? (
              <a href={`/answers/${row.occurrenceId}`} className="mt-1 block max-w-xs text-sm">
                <FillLine tally={row.roll} height={5} />
                <span className="link-quiet">{tallyWords(row.roll)}</span>
              </a>
            ) : null}
          </div>
          <div className="state">
            <Outcome row={row} />
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
  const { needs, drafts, engine, zone, nowMs } = desk;
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
      </ul>
      {needs.length === 0 && engine.running > 0 ? (
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

/** The first desk screen: today at a glance, the days to come, the days gone, and what needs somebody. */
export default function RunSheet({ desk: first }: { desk: Desk }) {
  const [desk, setDesk] = useState(first);
  useLive(
    ['desk'],
    () =>
      void ask<Desk>('GET', '/api/run-sheet')
        .then(setDesk)
        .catch(() => undefined),
  );
  const { rows, today, zone, nowMs } = desk;
  const todays = rows.filter((row) => row.dueMs >= today.startMs && row.dueMs < today.endMs);
  const coming = rows.filter((row) => row.dueMs >= today.endMs);
  const gone = rows.filter((row) => row.dueMs < today.startMs).reverse();
  const ahead = todays.filter((row) => row.state === 'scheduled').length;
  const sent = todays.filter((row) => row.state === 'sent' || row.state === 'going out').length;

  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_19rem]">
      <div>
        <div className="mb-4 flex flex-wrap items-end justify-between gap-4">
          <div>
            <h1>{dateWords(nowMs, zone)}</h1>
            <p className="text-quiet">
              {todays.length === 0
                ? 'Nothing goes out today.'
                : `Today ${sent} ${sent === 1 ? 'has' : 'have'} gone out and ${ahead} ${ahead === 1 ? 'is' : 'are'} still to go.`}
            </p>
          </div>
          <a href="/write" className="btn btn-primary">
            Write
          </a>
        </div>
        {rows.length === 0 && desk.drafts.length === 0 ? (
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
        <section aria-label="Today">
          <Rows rows={todays} zone={zone} empty="Nothing today." />
        </section>
        <section aria-labelledby="coming" className="mt-8">
          <h2 id="coming" className="mb-2">
            The next two weeks
          </h2>
          {byDay(coming, zone).map(([day, list]) => (
            <div key={day} className="mb-4">
              <h3 className="mb-1 text-base text-quiet">{day}</h3>
              <Rows rows={list} zone={zone} empty="" />
            </div>
          ))}
          {coming.length === 0 ? <p className="text-quiet">Nothing is planned yet.</p> : null}
        </section>
        <section aria-labelledby="gone" className="mt-8">
          <h2 id="gone" className="mb-2">
            The last seven days
          </h2>
          {byDay(gone, zone).map(([day, list]) => (
            <div key={day} className="mb-4">
              <h3 className="mb-1 text-base text-quiet">{day}</h3>
              <Rows rows={list} zone={zone} empty="" />
            </div>
          ))}
          {gone.length === 0 ? <p className="text-quiet">Nothing went out in the last seven days.</p> : null}
        </section>
      </div>
      <NeedsYou desk={desk} />
    </div>
  );
}
