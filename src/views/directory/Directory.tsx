import { useState } from 'react';
import { count, people } from '../../core/words.ts';
import { request, exactWordsOf, wordsOf } from '../../ui/api.ts';
import { lazily } from '../../ui/lazily.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Lacking } from './Lacking.tsx';

const BringIdentities = lazily(() =>
  import('./BringIdentities.tsx').then((module) => module.BringIdentities),
);

interface Missing {
  system: string;
  value: string;
  times: number;
  runId: number;
  automation: string;
}

interface DirectoryPage {
  systems: { system: string; people: number }[];
  missing: Missing[];
}
const PATH = '/api/identities';

/** Whom automations did not find, each to be said who they are with one press; and in which systems people are known. */
export default function Directory({ first }: { first: DirectoryPage }) {
  const { systems, missing } = useServer(PATH, { first, topics: ['people'] }).data ?? first;
  const [bringing, setBringing] = useState(false);
  const [open, setOpen] = useState<string>();
  const awake = useAwake();
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Directory</h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => setBringing(true)}>
          Bring in a list
        </button>
      </div>
      <p className="mb-4 max-w-2xl">
        People are called otherwise in other systems. Here it is kept who is who, so that an automation that
        reads a handle tells the right person. What somebody is called where is on their own page under
        People.
      </p>
      <h2 className="text-xl">Not found by automations</h2>
      {missing.length === 0 ? (
        <p className="mb-6 text-quiet">Everybody was found in the last eight weeks.</p>
      ) : (
        <ul className="ledger mb-6">
          {missing.map((each) => (
            <Line key={`${each.system} ${each.value}`} missing={each} />
          ))}
        </ul>
      )}
      <h2 className="text-xl">Known in</h2>
      {systems.length === 0 ? (
        <p className="text-quiet">Nobody is known in another system yet.</p>
      ) : (
        <ul className="ledger">
          {systems.map((each) => (
            <li key={each.system}>
              <span className="margin figure">{each.people.toLocaleString('en-GB')}</span>
              <span>
                <span dir="auto">{each.system}</span>
                <span className="block text-sm text-quiet">{people(each.people)} known in it</span>
                {open === each.system ? <Lacking system={each.system} /> : null}
              </span>
              <span className="state">
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  disabled={!awake}
                  aria-label={`Who lacks one in ${each.system}`}
                  aria-expanded={open === each.system}
                  onClick={() => setOpen(open === each.system ? undefined : each.system)}
                >
                  Who lacks one
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
      {bringing ? (
        <BringIdentities
          systems={systems.map(({ system }) => system)}
          onClose={() => setBringing(false)}
          onDone={(made, system) => {
            setBringing(false);
            void refetch(PATH);
            void done(`${count(made, 'name', 'names')} in ${system} brought in.`);
          }}
        />
      ) : null}
    </>
  );
}

function Line({ missing }: { missing: Missing }) {
  const [said, setSaid] = useState<string>();
  const [error, setError] = useState<string>();
  const [finding, setFinding] = useState(false);
  const awake = useAwake();
  const attach = async (person: { id: number; name: string }): Promise<void> => {
    setError(undefined);
    try {
      await request('POST', `/api/people/${person.id}/identities`, {
        system: missing.system === '' ? 'mail' : missing.system,
        value: missing.value,
      });
      setSaid(person.name);
    } catch (problem) {
      setError(exactWordsOf(problem));
    }
  };
  const again = (): void =>
    void request('POST', `/api/runs/${missing.runId}/again`).then(
      () => location.assign('/automations/runs'),
      (problem: unknown) => setError(wordsOf(problem)),
    );
  return (
    <li>
      <span className="margin figure">{missing.times}</span>
      <span>
        <span className="font-semibold" dir="auto">
          {missing.value}
        </span>
        <span className="block text-sm text-quiet" dir="auto">
          {missing.system === '' ? 'as a mail address or a name' : `in ${missing.system}`},{' '}
          {count(missing.times, 'time', 'times')}; looked for by “{missing.automation}”
        </span>
        {finding && said === undefined ? (
          <NameSearch label="Who is that?" onChoose={(found) => void attach(found)} />
        ) : null}
        {said === undefined ? null : (
          <span className="block">
            That is {said}.{' '}
            <button type="button" className="link" onClick={again}>
              Run it again
            </button>
          </span>
        )}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </span>
      <span className="state">
        {finding ? null : (
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={!awake}
            onClick={() => setFinding(true)}
          >
            Say who that is
          </button>
        )}
      </span>
    </li>
  );
}
