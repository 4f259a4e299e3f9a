import type { ReactNode } from 'react';
import {
  isSilent,
  QUEUE_WORDS,
  runningTroubles,
  type ProcessLine,
  type Running,
} from '../../core/operating/running.ts';
import { momentWords, spanWords } from '../../core/timing/words.ts';
import { bytesWords, people } from '../../core/words.ts';
import { useServer } from '../../ui/server.ts';

const PATH = '/api/running';
const EVERY_MS = 10_000;
const KINDS: Record<ProcessLine['kind'], string> = {
  web: 'Web',
  engine: 'Engine',
  'mail-in': 'Mail receiver',
};
const METHODS = { inbox: 'Inbox', mail: 'Mail', outside: 'Outside places' } as const;

const number = (n: number): string => n.toLocaleString('en-GB');
const seconds = (ms: number): string =>
  ms < 1000 ? `${Math.round(ms)} ms` : ms < 60_000 ? `${(ms / 1000).toFixed(1)} s` : spanWords(ms);
/** A share of all, rounded so that only all of them is 100 %. */
const share = (part: number, of: number): string =>
  `${(Math.floor((1000 * part) / of) / 10).toLocaleString('en-GB')} %`;

/** A table of figures with a heading; the first column says what each line is. */
function Figures({
  title,
  note,
  heads,
  lines,
  none,
}: {
  title: string;
  note?: string;
  heads: readonly string[];
  lines: readonly { key: string; quiet?: boolean; cells: readonly ReactNode[] }[];
  none: string;
}) {
  return (
    <section className="mb-8">
      <h2 className="mb-1 text-xl">{title}</h2>
      {note === undefined ? null : <p className="mb-2 max-w-3xl">{note}</p>}
      {lines.length === 0 ? (
        <p className="text-quiet">{none}</p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full">
            <thead className="text-left text-sm text-quiet">
              <tr>
                {heads.map((head, at) => (
                  <th
                    key={head}
                    scope="col"
                    className={`py-1 font-normal whitespace-nowrap ${at === 0 ? 'pr-4' : 'px-2 text-right'}`}
                  >
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {lines.map(({ key, quiet, cells }) => (
                <tr key={key} className={`border-t border-base-300 ${quiet ? 'text-quiet' : ''}`}>
                  {cells.map((cell, at) =>
                    at === 0 ? (
                      <th key={heads[at]} scope="row" className="min-w-44 py-1 pr-4 text-left font-normal">
                        {cell}
                      </th>
                    ) : (
                      <td key={heads[at]} className="figure px-2 py-1 text-right whitespace-nowrap">
                        {cell}
                      </td>
                    ),
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

/** How the installation runs, read anew every few seconds: what should have somebody look comes first. */
export function RunningView({ first, zone }: { first: Running; zone: string }) {
  const running = useServer(PATH, { first, everyMs: () => EVERY_MS }).data ?? first;
  const { nowMs, processes, queues, lateness, mail, backups, database } = running;
  const troubles = runningTroubles(running);
  return (
    <>
      <h1>How it runs</h1>
      <p className="mt-2 mb-4 max-w-2xl text-quiet">
        For whoever looks after the installation. Read anew every ten seconds; it says nothing of anybody by
        name.
      </p>
      <section aria-label="What should have somebody look" className="mb-8">
        {troubles.length === 0 ? (
          <p className="border-l-4 border-success pl-3">All is well.</p>
        ) : (
          <ul className="flex flex-col gap-2">
            {troubles.map((trouble) => (
              <li key={trouble} className="max-w-3xl border-l-4 border-warning pl-3">
                {trouble}
              </li>
            ))}
          </ul>
        )}
      </section>
      <Figures
        title="Processes"
        heads={['Process', 'Up for', 'Heard of', 'Clock', 'Held up', 'Memory']}
        none="None says that it runs."
        lines={processes.map((each) => ({
          key: each.name,
          quiet: isSilent(each, nowMs),
          cells: [
            <>
              {KINDS[each.kind]} <span className="text-sm text-quiet">on {each.host}</span>
            </>,
            spanWords(Math.max(0, each.beatMs - each.startedMs)),
            isSilent(each, nowMs)
              ? `silent since ${momentWords(each.beatMs, zone, nowMs)}`
              : `${Math.max(0, Math.round((nowMs - each.beatMs) / 1000))} s ago`,
            `${each.skewMs > 0 ? '+' : each.skewMs < 0 ? '−' : ''}${seconds(Math.abs(each.skewMs))}`,
            seconds(each.heldUpMs),
            bytesWords(each.rssBytes),
          ],
        }))}
      />
      <Figures
        title="What waits"
        heads={['What', 'Due now', 'The first since', 'For a time to come']}
        none=""
        lines={queues.map(({ kind, now, sinceMs, later }) => ({
          key: kind,
          quiet: now === 0,
          cells: [
            QUEUE_WORDS[kind],
            number(now),
            now === 0 || sinceMs === null ? '' : seconds(Math.max(0, nowMs - sinceMs)),
            later === 0 ? '' : number(later),
          ],
        }))}
      />
      <Figures
        title="Lateness of what was due in the last day"
        heads={['By', 'Reached', 'Within a second', 'Within a minute', 'At worst']}
        none="Nothing was due in the last day."
        lines={lateness.map(({ method, n, withinSecond, withinMinute, worstMs }) => ({
          key: method,
          cells: [
            METHODS[method],
            number(n),
            share(withinSecond, n),
            share(withinMinute, n),
            seconds(worstMs),
          ],
        }))}
      />
      <section className="mb-8">
        <h2 className="mb-1 text-xl">Mail of the last day</h2>
        <p>
          {number(mail.delivered)} handed over, {number(mail.failed)} failed.{' '}
          {mail.returning === 0
            ? 'No address sends mail back.'
            : `Mail to ${people(mail.returning)} comes back.`}
        </p>
        {mail.reasons.length > 0 ? (
          <ul className="mt-1 max-w-3xl">
            {mail.reasons.map(({ reason, n }) => (
              <li key={reason} className="grid grid-cols-[4rem_1fr] border-t border-base-300 py-1">
                <span className="figure">{number(n)}</span>
                <span className="wrap-anywhere">{reason || 'no reason was given'}</span>
              </li>
            ))}
          </ul>
        ) : null}
      </section>
      <Figures
        title="Backups"
        heads={['File', 'Written', 'Size', 'Took']}
        none="None has been written yet."
        lines={backups.map(({ atMs, host, file, bytes, tookMs }) => ({
          key: String(atMs),
          cells: [
            <span className="wrap-anywhere">
              {file} <span className="text-sm text-quiet">on {host}</span>
            </span>,
            momentWords(atMs, zone, nowMs),
            bytesWords(bytes),
            seconds(tookMs),
          ],
        }))}
      />
      <Figures
        title="Database"
        note={`MariaDB ${database.version}, up for ${spanWords(nowMs - database.upSinceMs)}; ${number(database.connections)} of ${number(database.mostConnections)} connections in use; ${bytesWords(database.bytes)} in all. Its largest tables:`}
        heads={['Table', 'Rows, about', 'Size']}
        none="It has no tables."
        lines={database.tables.map(({ name, rows, bytes }) => ({
          key: name,
          cells: [name, number(rows), bytesWords(bytes)],
        }))}
      />
    </>
  );
}
