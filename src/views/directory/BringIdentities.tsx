import { useState } from 'react';
import { MOST_IDENTITIES, type BroughtIdentities } from '../../core/directory/bringing.ts';
import { plainHeading } from '../../core/imports/columns.ts';
import { count } from '../../core/words.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useListReader } from '../sheets/useListReader.ts';

/** What headings of a list are taken for at first. */
const WHO = ['mail', 'e-mail', 'email', 'address', 'mail address', 'person', 'name', 'who'];

interface List {
  headings: string[];
  count: number;
}

function SystemField({
  system,
  systems,
  onChange,
}: {
  system: string;
  systems: readonly string[];
  onChange: (system: string) => void;
}) {
  return (
    <label className="flex flex-wrap items-center gap-2">
      <span className="w-48">The system is called</span>
      <input
        className="input w-56"
        list="systems-known"
        maxLength={40}
        dir="auto"
        value={system}
        onChange={(event) => onChange(event.target.value)}
      />
      <datalist id="systems-known">
        {systems.map((each) => (
          <option key={each} value={each} />
        ))}
      </datalist>
    </label>
  );
}

/** Which column of the list is meant. */
function ColumnField({
  label,
  headings,
  at,
  onChange,
}: {
  label: string;
  headings: readonly string[];
  at: number;
  onChange: (at: number) => void;
}) {
  return (
    <label className="flex flex-wrap items-center gap-2">
      <span className="w-48">{label}</span>
      <select className="select w-56" value={at} onChange={(event) => onChange(Number(event.target.value))}>
        {headings.map((heading, i) => (
          <option key={`${heading}-${i}`} value={i}>
            {heading === '' ? `Column ${i + 1}` : heading}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Brings in what people are called in a system, from a list: looked at first, line by line, and only then kept. */
export function BringIdentities({
  systems,
  onClose,
  onDone,
}: {
  /** Systems that are known already. */
  systems: readonly string[];
  onClose: () => void;
  onDone: (made: number, system: string) => void;
}) {
  const readerOf = useListReader();
  const [list, setList] = useState<List>();
  const [who, setWho] = useState(0);
  const [value, setValue] = useState(1);
  const [system, setSystem] = useState('');
  const [found, setFound] = useState<BroughtIdentities>();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  /** What was looked at is no longer what is chosen. */
  const anew = (): void => {
    setFound(undefined);
    setError(undefined);
  };
  const choose = async (file: File): Promise<void> => {
    anew();
    const read = await readerOf().read(await file.arrayBuffer());
    if ('problem' in read) {
      setError(read.problem);
      return;
    }
    const guessed = read.headings.findIndex((heading) => WHO.includes(plainHeading(heading)));
    const first = Math.max(0, guessed);
    setList(read);
    setWho(first);
    setValue(first === 0 ? Math.min(1, read.headings.length - 1) : 0);
    const named = read.headings.find((heading, at) => at !== first && systems.includes(heading.trim()));
    if (named !== undefined) setSystem(named.trim());
  };
  const send = async (keep: boolean): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const rows = (await readerOf().raw([who, value])).map(
        ({ line, cells: [person = '', handle = ''] }) => ({
          line,
          who: person.slice(0, 400),
          value: handle.slice(0, 400),
        }),
      );
      if (rows.length > MOST_IDENTITIES)
        throw new Error(
          `${rows.length.toLocaleString('en-GB')} lines are more than the ${MOST_IDENTITIES.toLocaleString('en-GB')} that are brought in at once. Part the list.`,
        );
      const answer = await request('POST', '/api/identities', { system, rows, keep });
      if (keep) onDone(answer.made, system);
      else setFound(answer);
    } catch (failure) {
      setError(exactWordsOf(failure));
    }
    setBusy(false);
  };
  const column = (label: string, at: number, set: (at: number) => void) => (
    <ColumnField
      label={label}
      headings={list?.headings ?? []}
      at={at}
      onChange={(next) => {
        set(next);
        anew();
      }}
    />
  );
  return (
    <Dialog
      open
      title="Bring in a list of names"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          {found ? (
            <button
              type="button"
              className="btn btn-primary"
              disabled={busy || found.made === 0}
              onClick={() => void send(true)}
            >
              Bring in {count(found.made, 'name', 'names')}
            </button>
          ) : (
            <button
              type="button"
              className="btn btn-primary"
              disabled={busy || !list || system.trim() === '' || who === value}
              onClick={() => void send(false)}
            >
              See what fits
            </button>
          )}
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <p>
          A list with a mail address of each person, or the whole name of exactly one, and what they are
          called in another system. Nobody is guessed, and nothing is taken from anybody.
        </p>
        <label className="btn btn-outline self-start">
          {list ? 'Choose another file' : 'Choose a CSV or JSON file'}
          <input
            type="file"
            accept=".csv,.tsv,.txt,.json,text/csv,text/plain,application/json"
            className="sr-only"
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              if (file) void choose(file);
            }}
          />
        </label>
        {list ? (
          <>
            <SystemField
              system={system}
              systems={systems}
              onChange={(next) => {
                setSystem(next);
                anew();
              }}
            />
            {column('Who that is', who, setWho)}
            {column('What they are called there', value, setValue)}
            {who === value ? <p className="text-sm text-error">These are two different columns.</p> : null}
          </>
        ) : null}
        <div role="status">{found ? <Found found={found} /> : null}</div>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Dialog>
  );
}

const Found = ({ found }: { found: BroughtIdentities }) => (
  <>
    <p>
      {count(found.made, 'name is', 'names are')} new, {found.there.toLocaleString('en-GB')}{' '}
      {found.there === 1 ? 'is' : 'are'} there already, {found.leftOut.toLocaleString('en-GB')}{' '}
      {found.leftOut === 1 ? 'is' : 'are'} left out{found.leftOut > 0 ? ':' : '.'}
    </p>
    {found.told.length > 0 ? (
      <ul className="mt-1 max-h-48 overflow-y-auto border-y border-base-300 text-sm">
        {found.told.map(({ line, who, value, why }) => (
          <li key={line} className="py-1" dir="auto">
            Line {line}, {who || 'nobody'}, “{value}”: {why}
          </li>
        ))}
      </ul>
    ) : null}
    {found.leftOut > found.told.length ? (
      <p className="text-sm text-quiet">
        And {(found.leftOut - found.told.length).toLocaleString('en-GB')} more.
      </p>
    ) : null}
  </>
);
