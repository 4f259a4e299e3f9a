import { useState } from 'react';
import type { Roll } from '../../core/asks/roll.ts';
import { Moment } from '../../ui/Moment.tsx';
import { people } from '../../core/words.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

const CHASE_STATES: Record<string, string> = {
  scheduled: 'planned',
  'going out': 'going out',
  sent: 'went out',
  recalled: 'taken back',
  failed: 'failed',
};

/** The chases that went or will go, and whom they reached. */
function Chases({ chases, zone, nowMs }: { chases: Roll['chases']; zone: string; nowMs: number }) {
  return (
    <ul className="ledger mt-3" aria-label="Chases">
      {chases.map((chase) => (
        <li key={chase.occurrenceId}>
          <span className="margin">chase</span>
          <span>
            <a className="link-quiet" href={`/sends/${chase.occurrenceId}`}>
              <Moment at={chase.dueMs} zone={zone} nowMs={nowMs} />
            </a>
            {chase.failure === null ? null : (
              <span className="block text-sm text-quiet">{chase.failure}</span>
            )}
          </span>
          <span className="state text-sm">
            {CHASE_STATES[chase.state] ?? chase.state}
            {chase.reached > 0 ? `, to ${people(chase.reached)}` : ''}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** What was and will be done about those who have not answered: the chases, one more now, and closing it. */
export function Actions({
  roll,
  zone,
  nowMs,
  onChanged,
}: {
  roll: Roll;
  zone: string;
  nowMs: number;
  onChanged: () => void;
}) {
  const awake = useAwake();
  const [question, setQuestion] = useState<'chase' | 'close'>();
  const [key, setKey] = useState(newKey);
  const [said, setSaid] = useState<string>();
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const missing = roll.tally.asked - roll.tally.answered;
  const act = async (work: () => Promise<string>): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      setSaid(await work());
      onChanged();
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setBusy(false);
    setKey(newKey());
    setQuestion(undefined);
  };
  const open = roll.closedMs === null;
  return (
    <section aria-label="The chase" className="mb-8 print:hidden">
      <div className="flex flex-wrap items-center gap-3">
        {open && missing > 0 ? (
          <button
            type="button"
            className="btn btn-primary"
            disabled={!awake}
            onClick={() => setQuestion('chase')}
          >
            Chase {people(missing)} now
          </button>
        ) : null}
        {open ? (
          <button
            type="button"
            className="btn btn-outline"
            disabled={!awake}
            onClick={() => setQuestion('close')}
          >
            Close it
          </button>
        ) : null}
        <a className="btn btn-outline" href={`/answers/${roll.occurrenceId}/print`}>
          To print
        </a>
      </div>
      {said === undefined ? null : (
        <div className="mt-2">
          <Notice tone="success">{said}</Notice>
        </div>
      )}
      {error === undefined ? null : (
        <div className="mt-2">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
      {roll.chases.length > 0 ? <Chases chases={roll.chases} zone={zone} nowMs={nowMs} /> : null}
      {roll.listMs === null ? null : (
        <p className="mt-2 text-sm text-quiet">
          The owners of groups are told who is still missing:{' '}
          <Moment at={roll.listMs} zone={zone} nowMs={nowMs} />.
        </p>
      )}
      <Dialog
        open={question === 'chase'}
        title={`Chase ${people(missing)} now?`}
        onClose={() => setQuestion(undefined)}
        actions={
          <>
            <button type="button" className="btn btn-outline" onClick={() => setQuestion(undefined)}>
              Not now
            </button>
            <button
              type="button"
              className="btn btn-primary"
              disabled={busy}
              onClick={() =>
                void act(async () => {
                  await request('POST', `/api/asks/${roll.occurrenceId}/chase`, undefined, key);
                  return 'The chase goes out in ten seconds. Its line below leads to it, where it can be taken back.';
                })
              }
            >
              Chase {people(missing)}
            </button>
          </>
        }
      >
        <p>
          Those who have not answered when it goes get a reminder in their inbox, and by mail where it went by
          mail; those at rest when their quiet hours end. It is held for ten seconds and can be taken back
          until then.
        </p>
      </Dialog>
      <Dialog
        open={question === 'close'}
        title="Close it now?"
        onClose={() => setQuestion(undefined)}
        actions={
          <>
            <button type="button" className="btn btn-outline" onClick={() => setQuestion(undefined)}>
              Keep it open
            </button>
            <button
              type="button"
              className="btn btn-primary"
              disabled={busy}
              onClick={() =>
                void act(async () => {
                  await request('POST', `/api/asks/${roll.occurrenceId}/close`);
                  return 'It is closed.';
                })
              }
            >
              Close it for {people(roll.tally.asked)}
            </button>
          </>
        }
      >
        <p>
          No answers are taken after that, and nobody is chased any more. What was answered stands. It cannot
          be opened again.
        </p>
      </Dialog>
    </section>
  );
}
