import { useState } from 'react';
import { isAboutPerson, type Automation } from '../../core/automation/automation.ts';
import type { Trial, TriedSaying } from '../../core/automation/run.ts';
import { count, people } from '../../core/words.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Matter } from '../../ui/Matter.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';

function Said({ saying }: { saying: TriedSaying }) {
  if (saying.keptBack !== null)
    return (
      <li className="border-t border-base-300 py-3">
        <span className="font-semibold" dir="auto">
          {saying.about}
        </span>
        <p className="text-warning">Kept back: {saying.keptBack}</p>
      </li>
    );
  const where = [
    saying.whom === ''
      ? ''
      : `to ${saying.whom}${saying.people === null || saying.people === 1 ? '' : ` (${people(saying.people)})`} by ${saying.mail ? 'inbox and mail' : 'inbox'}`,
    saying.boards.length === 0 ? '' : `on ${saying.boards.join(', ')}`,
    saying.outside.length === 0 ? '' : `to ${saying.outside.join(', ')} outside`,
  ].filter(Boolean);
  return (
    <li className="border-t border-base-300 py-3">
      <p className="text-sm text-quiet" dir="auto">
        {saying.otherwise ? 'The other way: ' : ''}
        {where.join(', and ')}, {saying.due}
        {saying.from === '' ? '' : `, from ${saying.from}`}
      </p>
      {saying.reason === null ? null : <p className="text-sm text-warning">{saying.reason}</p>}
      <div className="mt-2 border border-base-300 bg-base-100 p-4">
        <h3 className="text-lg" dir="auto">
          {saying.title}
        </h3>
        <Matter html={saying.html} />
      </div>
      {saying.people === 0 ? <p className="text-warning">It would reach nobody.</p> : null}
    </li>
  );
}

/** Tries what is written on something real, and shows exactly what would be said to whom, when, and why. Nothing leaves. */
export function Bench({
  id,
  automation,
  problem,
}: {
  id: number;
  automation: Automation;
  /** What keeps it from being tried at all, in words. */
  problem: string | null;
}) {
  const [trial, setTrial] = useState<Trial>();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const [person, setPerson] = useState<{ id: number; name: string } | null>(null);
  const body = { automation, personId: person?.id ?? null, recordId: null };
  const run = async (work: () => Promise<void>): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await work();
    } catch (failure) {
      setError(wordsOf(failure));
    }
    setBusy(false);
  };
  const tryIt = (): Promise<void> =>
    run(async () => setTrial(await request('POST', `/api/automations/${id}/trial`, body)));
  const sendIt = (): Promise<void> =>
    run(async () => {
      await request('POST', `/api/automations/${id}/trial/send`, body, newKey());
      await done('It goes to you alone, in your inbox and by mail, in ten seconds.');
    });
  return (
    <section aria-label="The bench" className="flex flex-col gap-3">
      <h2 className="text-xl">The bench</h2>
      <p className="text-quiet">See what it would say, on what is really there. Nothing leaves.</p>
      {isAboutPerson(automation.when) ? (
        person ? (
          <p>
            Tried on <b dir="auto">{person.name}</b>.{' '}
            <button type="button" className="link" onClick={() => setPerson(null)}>
              Somebody else
            </button>
          </p>
        ) : (
          <NameSearch label="Try it on somebody, or on whoever is in the group" onChoose={setPerson} />
        )
      ) : null}
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="btn btn-primary"
          disabled={busy || problem !== null}
          onClick={() => void tryIt()}
        >
          Try it
        </button>
        {trial?.sayings.some((each) => each.keptBack === null) ? (
          <button type="button" className="btn btn-outline" disabled={busy} onClick={() => void sendIt()}>
            Send the first to me
          </button>
        ) : null}
      </div>
      {problem === null ? null : <p className="text-quiet">{problem}</p>}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {trial ? <Outcome trial={trial} /> : null}
    </section>
  );
}

function Outcome({ trial }: { trial: Trial }) {
  if (trial.problem !== null) return <Notice tone="warning">{trial.problem}</Notice>;
  const said = trial.sayings.filter((each) => each.keptBack === null).length;
  return (
    <div role="status">
      <p className="font-semibold">
        On {trial.cause}:{' '}
        {trial.considered > 1 ? `${trial.matched} of ${trial.considered} meet the conditions; ` : ''}
        {said + trial.more === 0
          ? 'nothing would be said.'
          : `${count(said + trial.more, 'message', 'messages')} would go out.`}
      </p>
      {trial.values.length > 0 ? (
        <details className="mt-1 text-sm">
          <summary className="min-h-9 cursor-pointer text-quiet">What its fields hold</summary>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4">
            {trial.values.map((each) => (
              <div key={each.label} className="contents">
                <dt className="text-quiet" dir="auto">
                  {each.label}
                </dt>
                <dd dir="auto">{each.value}</dd>
              </div>
            ))}
          </dl>
        </details>
      ) : null}
      <ul className="mt-2">
        {trial.sayings.map((saying, at) => (
          <Said key={`${saying.about}-${at}`} saying={saying} />
        ))}
      </ul>
      {trial.more > 0 ? <p className="text-quiet">and {trial.more.toLocaleString('en-GB')} more.</p> : null}
    </div>
  );
}
