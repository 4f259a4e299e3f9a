import { useState } from 'react';
import { inputsOf, type Source } from '../../core/automation/source.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { NamedValues } from '../../ui/NamedValues.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { SecretFields } from './SecretFields.tsx';

type Shown = Source & { id: number; hasSecret: boolean };

const EMPTY: Source = {
  name: '',
  url: 'https://',
  header: '',
  fields: [{ name: '', pointer: '/', kind: 'number', unit: '' }],
  keepMinutes: 30,
};

/** Outside sources that automations look things up at. */
export default function Sources({ sources }: { sources: Shown[] }) {
  const [open, setOpen] = useState<Shown | 'new' | null>(null);
  const awake = useAwake();
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Sources</h1>
        <a className="btn btn-ghost" href="/automations">
          Automations
        </a>
        <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setOpen('new')}>
          Add a source
        </button>
      </div>
      {sources.length === 0 ? (
        <p className="text-quiet">
          There are none yet. A source answers a question in JSON: the conditions at a site, the state of an
          order.
        </p>
      ) : (
        <ul className="ledger">
          {sources.map((source) => (
            <li key={source.id}>
              <span className="margin figure">{source.fields.length}</span>
              <span>
                <span className="font-semibold" dir="auto">
                  {source.name}
                </span>
                <span className="block text-sm text-quiet">
                  {source.url}; brings {source.fields.map((field) => field.name).join(', ')}
                  {source.hasSecret ? '; with a secret' : ''}
                </span>
              </span>
              <span className="state">
                <button
                  type="button"
                  className="btn btn-outline btn-sm"
                  disabled={!awake}
                  onClick={() => setOpen(source)}
                >
                  Change
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
      {open ? <SourceDialog source={open === 'new' ? null : open} onClose={() => setOpen(null)} /> : null}
    </>
  );
}

interface Answer {
  answer: string;
  values: { name: string; value: string }[];
  problem: string | null;
}

function SourceDialog({ source: given, onClose }: { source: Shown | null; onClose: () => void }) {
  const [source, setSource] = useState<Source>(given ?? EMPTY);
  const [secret, setSecret] = useState('');
  const [inputs, setInputs] = useState<Record<string, string>>({});
  const [answer, setAnswer] = useState<Answer>();
  const [error, setError] = useState<string>();
  const set = (part: Partial<Source>): void => setSource({ ...source, ...part });
  const run = async (work: () => Promise<void>): Promise<void> => {
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(exactWordsOf(problem));
    }
  };
  const plain: Source = {
    name: source.name,
    url: source.url,
    header: source.header,
    fields: source.fields,
    keepMinutes: source.keepMinutes,
  };
  const save = (): Promise<void> =>
    run(async () => {
      if (given) await request('PUT', `/api/sources/${given.id}`, { source: plain, secret });
      else await request('POST', '/api/sources', { source: plain, secret });
      location.reload();
    });
  const tryIt = (): Promise<void> =>
    run(async () =>
      setAnswer(
        await request('POST', '/api/sources/try', {
          source: plain,
          secret,
          id: given?.id ?? null,
          inputs,
        }),
      ),
    );
  return (
    <Dialog
      open
      title={given ? 'Change the source' : 'Add a source'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-outline" onClick={() => void tryIt()}>
            Ask it
          </button>
          <button type="button" className="btn btn-primary" onClick={() => void save()}>
            {given ? 'Change it' : 'Add it'}
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <label className="flex flex-col gap-1">
          Name
          <input
            className="input w-full"
            maxLength={80}
            value={source.name}
            onChange={(event) => set({ name: event.target.value })}
          />
        </label>
        <label className="flex flex-col gap-1">
          Address, with {'{place}'} where an input stands
          <input
            className="input w-full"
            maxLength={500}
            value={source.url}
            onChange={(event) => set({ url: event.target.value })}
          />
        </label>
        <SecretFields
          header={source.header}
          secret={secret}
          kept={given?.hasSecret ?? false}
          onHeader={(header) => set({ header })}
          onSecret={setSecret}
        />
        <NamedValues
          legend="What of its answer is used"
          least={1}
          fields={source.fields}
          onChange={(fields) => set({ fields })}
        />
        <label className="flex flex-col gap-1 self-start">
          Minutes an answer is kept
          <input
            type="number"
            className="input w-28"
            min={0}
            max={1440}
            value={source.keepMinutes}
            onChange={(event) => {
              const n = Math.trunc(Number(event.target.value));
              if (n >= 0 && n <= 1440) set({ keepMinutes: n });
            }}
          />
        </label>
        {inputsOf(source.url).map((input) => (
          <label key={input} className="flex flex-col gap-1">
            To ask it now: {input}
            <input
              className="input w-full"
              value={inputs[input] ?? ''}
              onChange={(event) => setInputs({ ...inputs, [input]: event.target.value })}
            />
          </label>
        ))}
        {answer ? (
          <div role="status">
            {answer.problem === null ? null : <Notice tone="error">{answer.problem}</Notice>}
            {answer.values.map((each) => (
              <p key={each.name}>
                {each.name}: {each.value === '' ? <span className="text-warning">nothing</span> : each.value}
              </p>
            ))}
            {answer.answer === '' ? null : (
              // What can be moved in by itself can be reached by keyboard.
              // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
              <pre className="mt-2 max-h-48 overflow-auto bg-base-200 p-2 text-sm" tabIndex={0}>
                {answer.answer}
              </pre>
            )}
          </div>
        ) : null}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Dialog>
  );
}
