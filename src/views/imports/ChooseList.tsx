import { useState } from 'react';
import {
  columnsProblem,
  FIELD_WORDS,
  IMPORT_FIELDS,
  plainHeading,
  type Column,
} from '../../core/imports/columns.ts';
import type { ImportSummary } from '../../core/imports/import.ts';
import { separatorWords } from '../../core/imports/reading.ts';
import type { DateOrder } from '../../core/imports/record.ts';
import { count } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { PastImports } from './PastImports.tsx';
import type { ListRead } from './list.worker.ts';
import { useList } from './useList.ts';

const ORDINARY: Column[] = [...IMPORT_FIELDS, 'nothing'];

/**
 * What each column was matched with before, else what it most likely holds, an attribute of its name included; each field
 * once.
 */
function firstColumns(read: ListRead, remembered: Record<string, string>, attributes: string[]): Column[] {
  const isColumn = (text: string | undefined): text is Column =>
    text !== undefined && (text.startsWith('attribute:') || (ORDINARY as string[]).includes(text));
  const known = read.headings.map((heading) => remembered[plainHeading(heading)]);
  const taken = new Set<string | undefined>(known);
  return read.guess.map((guess, at): Column => {
    const before = known[at];
    if (isColumn(before)) return before;
    const plain = plainHeading(read.headings[at] ?? '');
    const attribute = attributes.find((name) => plainHeading(name) === plain && plain !== '');
    if (guess === 'nothing' && attribute !== undefined) return `attribute:${attribute}`;
    return taken.has(guess) ? 'nothing' : guess;
  });
}

/** A list is chosen, its columns are matched, and it is sent to be compared with the directory. */
export default function ChooseList({
  attributes,
  remembered,
  past,
  zone,
  nowMs,
}: {
  /** The attributes the organisation has. */
  attributes: string[];
  remembered: Record<string, string>;
  past: ImportSummary[];
  zone: string;
  nowMs: number;
}) {
  const { list, reading, sent, choose, readAgain, send } = useList();
  const [problem, setProblem] = useState<string | null>(null);
  const awake = useAwake();
  const take = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setProblem(null);
    setProblem(await choose(file).catch(wordsOf));
  };
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Import people</h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
      </div>
      <p className="mb-4 max-w-prose">
        Bring in people from a list you have: a CSV from a spreadsheet or another system, or vCards. You see
        who is new, who changes and what is wrong before anything is changed, and for a day it can be undone.
      </p>
      <label
        className="mb-4 flex max-w-xl flex-col gap-2 border border-dashed border-base-content/40 p-4"
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          void take(event.dataTransfer.files[0]);
        }}
      >
        {list ? `${list.fileName}. Another file:` : 'Choose the file, or drop it here'}
        <input
          type="file"
          className="file-input w-full"
          accept=".csv,.tsv,.txt,.vcf,text/csv,text/vcard,text/plain"
          disabled={!awake || sent !== null}
          onChange={(event) => void take(event.target.files?.[0])}
        />
      </label>
      {reading ? <p role="status">The file is being read.</p> : null}
      {problem === null ? null : <Notice tone="error">{problem}</Notice>}
      {list ? (
        <Columns
          key={`${list.fileName} ${list.read.named} ${list.read.count}`}
          read={list.read}
          first={firstColumns(list.read, remembered, attributes)}
          sent={sent}
          onNamed={async (named) => setProblem(await readAgain(named))}
          onSend={async (columns, order) => {
            const id = await send(columns, order);
            location.assign(`/people/import/${id}`);
          }}
        />
      ) : (
        <PastImports past={past} zone={zone} nowMs={nowMs} />
      )}
    </>
  );
}

function Columns({
  read,
  first,
  sent,
  onNamed,
  onSend,
}: {
  read: ListRead;
  first: Column[];
  sent: number | null;
  onNamed: (named: boolean) => Promise<void>;
  onSend: (columns: Column[], order: DateOrder) => Promise<void>;
}) {
  const [columns, setColumns] = useState(first);
  const dates = read.dateOrders[columns.indexOf('joinedOn')] ?? null;
  const [chosenOrder, setOrder] = useState<DateOrder>('day first');
  const [error, setError] = useState<string>();
  const problem = columnsProblem(columns);
  const readBothWays =
    columns.includes('joinedOn') &&
    dates === null &&
    (read.examples[columns.indexOf('joinedOn')] ?? []).some((text) => /^\d{1,2}[./-]/.test(text));
  const start = async (): Promise<void> => {
    setError(undefined);
    try {
      await onSend(columns, dates ?? chosenOrder);
    } catch (failed) {
      setError(wordsOf(failed));
    }
  };
  return (
    <section aria-labelledby="columns" className="mt-6">
      <h2 id="columns" className="mb-1">
        What each column holds
      </h2>
      <p className="mb-3 text-quiet">
        {count(read.count, 'row', 'rows')}
        {read.kind === 'vCard' ? ' from vCards' : `, separated by ${separatorWords(read.separator)}`}, read as{' '}
        {read.encoding}. If names look wrong below, save the file as UTF-8 and choose it again.
      </p>
      {read.kind === 'CSV' ? (
        <label className="mb-3 flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox"
            checked={read.named}
            disabled={sent !== null}
            onChange={(event) => void onNamed(event.target.checked)}
          />
          The first row names the columns
        </label>
      ) : null}
      <ul className="ledger">
        {read.headings.map((heading, at) => {
          const name = heading === '' ? `Column ${at + 1}` : heading;
          const column = columns[at] ?? 'nothing';
          const own: Column = `attribute:${name.slice(0, 60)}`;
          return (
            <li key={at}>
              <span className="margin figure">{at + 1}</span>
              <span>
                <span className="font-semibold" dir="auto">
                  {name}
                </span>
                <span className="block text-sm text-quiet" dir="auto">
                  {(read.examples[at] ?? []).join(' · ') || 'empty'}
                </span>
              </span>
              <span className="state">
                <select
                  className="select w-56"
                  aria-label={`${name} holds`}
                  value={column}
                  disabled={sent !== null}
                  onChange={(event) =>
                    setColumns(columns.map((each, i) => (i === at ? (event.target.value as Column) : each)))
                  }
                >
                  {IMPORT_FIELDS.map((field) => (
                    <option key={field} value={field}>
                      {FIELD_WORDS[field]}
                    </option>
                  ))}
                  <option value={column.startsWith('attribute:') ? column : own}>an attribute: {name}</option>
                  <option value="nothing">not used</option>
                </select>
              </span>
            </li>
          );
        })}
      </ul>
      {readBothWays ? (
        <label className="mt-3 flex items-center gap-2">
          Dates such as 03/04/2026 are written
          <select
            className="select w-40"
            value={chosenOrder}
            onChange={(event) => setOrder(event.target.value as DateOrder)}
          >
            <option value="day first">day first</option>
            <option value="month first">month first</option>
          </select>
        </label>
      ) : null}
      <div className="mt-4 flex flex-wrap items-center gap-4">
        <button
          type="button"
          className="btn btn-primary"
          disabled={problem !== null || sent !== null}
          onClick={() => void start()}
        >
          Compare {count(read.count, 'row', 'rows')} with who is here
        </button>
        {problem === null ? null : <span className="text-warning">{problem}</span>}
        {sent === null ? null : (
          <span className="flex items-center gap-3" role="status">
            <progress className="progress w-48" value={sent} max={1} aria-label="Sent" />
            {sent < 1 ? `${Math.round(sent * 100)} % sent` : 'being compared'}
          </span>
        )}
      </div>
      {error === undefined ? null : (
        <div className="mt-3">
          <Notice tone="error">{error} Nothing was changed.</Notice>
        </div>
      )}
    </section>
  );
}
