import { doesAnything, importWords, undoWords, type ImportSummary } from '../../core/imports/import.ts';
import { count, list } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Missing } from './Missing.tsx';

/** What is asked about before it is done. */
export type Asked = 'apply' | 'undo' | 'discard';

interface PartProps {
  found: ImportSummary;
  onAsk: (what: Asked) => void;
  /** Whether those who are missing from the list are marked as left. */
  onMarksLeft: (marksLeft: boolean) => void;
}

function Compared({ found, onAsk, onMarksLeft }: PartProps) {
  const awake = useAwake();
  return (
    <>
      <p className="mb-3 font-display text-2xl font-semibold" aria-live="polite">
        It would {importWords(found)}.
      </p>
      {found.newStations.length > 0 ? (
        <p className="mb-3">
          {count(found.newStations.length, 'station is', 'stations are')} made with it, on the organisation’s
          clock: {list(found.newStations.slice(0, 12), 'and')}
          {found.newStations.length > 12 ? ` and ${found.newStations.length - 12} more` : ''}.
        </p>
      ) : null}
      <Missing found={found} onChoose={onMarksLeft} />
      <div className="mt-4 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn btn-primary"
          disabled={!awake || !doesAnything(found)}
          onClick={() => onAsk('apply')}
        >
          Bring it in
        </button>
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => onAsk('discard')}>
          Put it away
        </button>
      </div>
    </>
  );
}

/** What a list would do, or has done. */
export function WhatItDoes({
  found,
  error,
  zone,
  nowMs,
  onAsk,
  onMarksLeft,
}: PartProps & { error: string | undefined; zone: string; nowMs: number }) {
  const awake = useAwake();
  return (
    <section aria-label="What it does" className="mb-6">
      {found.state === 'open' ? (
        <>
          <Notice tone="warning">
            This list has not arrived whole: the page was left, or the connection lost, while it was sent.
            Nothing of it is brought in.
          </Notice>
          <p className="mt-3">
            <a className="btn btn-primary" href="/people/import">
              Choose the file again
            </a>
          </p>
        </>
      ) : null}
      {found.state === 'compared' ? <Compared found={found} onAsk={onAsk} onMarksLeft={onMarksLeft} /> : null}
      {found.state === 'applied' && found.undoUntilMs !== null && found.undoUntilMs > nowMs ? (
        <p className="flex flex-wrap items-center gap-3">
          <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => onAsk('undo')}>
            Undo it
          </button>
          <span className="text-quiet">
            until <Moment at={found.undoUntilMs} zone={zone} nowMs={nowMs} />
          </span>
        </p>
      ) : null}
      {error === undefined ? null : (
        <div className="mt-3">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
    </section>
  );
}

/** The last question before a list is brought in, taken back or put away. */
export function Question({
  asked,
  found,
  onClose,
}: {
  asked: Asked | undefined;
  found: ImportSummary;
  onClose: () => void;
}) {
  const path = `/api/imports/${found.id}` as const;
  return (
    <>
      {asked === 'apply' ? (
        <Confirm
          title="Bring in this list?"
          detail={`It will ${importWords(found)}. ${
            found.counts.clash + found.counts.wrong > 0
              ? `${count(found.counts.clash + found.counts.wrong, 'row is', 'rows are')} left out. `
              : ''
          }It can be undone for a day. A long list takes up to half a minute.`}
          button="Bring it in"
          onClose={onClose}
          onConfirm={async () => {
            try {
              await request('POST', `${path}/apply`, { digest: found.digest });
              void done('The list is brought in.');
            } finally {
              await refetch(path);
            }
          }}
        />
      ) : null}
      {asked === 'undo' ? (
        <Confirm
          title="Undo this list?"
          detail="Whoever it added is gone again, or marked as left where something has reached them already. What it changed is as before, unless somebody has changed it again since. Sessions it ended stay ended."
          button="Undo it"
          onClose={onClose}
          onConfirm={async () => {
            const outcome = await request('POST', `${path}/undo`);
            void done(undoWords(outcome) || 'It is taken back.');
            await refetch(path);
          }}
        />
      ) : null}
      {asked === 'discard' ? (
        <Confirm
          title="Put this list away?"
          detail="Nothing of it is brought in. The file itself stays where it is."
          button="Put it away"
          onClose={onClose}
          onConfirm={async () => {
            await request('DELETE', path);
            location.assign('/people/import');
          }}
        />
      ) : null}
    </>
  );
}
