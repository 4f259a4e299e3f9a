import { useEffect, useRef, useState, type SubmitEvent } from 'react';
import type { PeoplePage, Person } from '../../core/people/person.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { Clearance, type Group } from './Clearance.tsx';
import { Owners } from './Owners.tsx';
import { Contacts } from './Contacts.tsx';

interface Station {
  id: number;
  name: string;
}

function AddPerson({ stations, onAdded }: { stations: Station[]; onAdded: (name: string) => void }) {
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const about = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const submit = async (event: SubmitEvent<HTMLFormElement>): Promise<void> => {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const text = (name: string): string => {
      const value = data.get(name);
      return typeof value === 'string' ? value : '';
    };
    setBusy(true);
    setProblem(undefined);
    try {
      await ask('POST', '/api/people', {
        name: text('name'),
        mail: text('mail').trim(),
        role: text('role'),
        stationId: text('stationId') === '' ? null : Number(text('stationId')),
      });
      form.reset();
      onAdded(text('name'));
    } catch (error) {
      setProblem(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <details className="mb-6 border border-base-300 bg-base-100 px-4">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold text-primary">
        Add a person
      </summary>
      <form className="grid gap-3 pb-4 sm:grid-cols-2" noValidate onSubmit={(event) => void submit(event)}>
        <label className="flex flex-col gap-1">
          Name
          <input name="name" className="input w-full" dir="auto" aria-invalid={about('name') !== undefined} />
          {about('name') === undefined ? null : <span className="text-error">{about('name')}</span>}
        </label>
        <label className="flex flex-col gap-1">
          Mail address, if there is one
          <input
            name="mail"
            type="email"
            className="input w-full"
            aria-invalid={about('mail') !== undefined}
          />
          {about('mail') === undefined ? null : <span className="text-error">{about('mail')}</span>}
        </label>
        <label className="flex flex-col gap-1">
          Station
          <select name="stationId" className="select w-full">
            <option value="">No station</option>
            {stations.map((station) => (
              <option key={station.id} value={station.id}>
                {station.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          Role
          <select name="role" className="select w-full" defaultValue="member">
            <option value="member">member</option>
            <option value="editor">editor</option>
            <option value="coordinator">coordinator</option>
          </select>
        </label>
        {problem !== undefined && !(problem instanceof ApiProblem && problem.errors.length > 0) ? (
          <div className="sm:col-span-2">
            <Notice tone="error">{wordsOf(problem)}</Notice>
          </div>
        ) : null}
        <div>
          <button className="btn btn-primary" disabled={busy}>
            Add to the organisation
          </button>
        </div>
      </form>
    </details>
  );
}

/** The directory: who is here, where, and how they can be reached. */
export default function People({
  first,
  stations,
  mayChange,
  me,
  groups,
}: {
  first: PeoplePage;
  stations: Station[];
  mayChange: boolean;
  me: number;
  groups: Group[];
}) {
  const [page, setPage] = useState(first);
  const [search, setSearch] = useState('');
  const [error, setError] = useState<string>();
  const [said, setSaid] = useState<string>();
  const [leaving, setLeaving] = useState<Person | null>(null);
  const wanted = useRef(0);

  const load = async (term: string, after: PeoplePage['next']): Promise<void> => {
    const mine = ++wanted.current;
    const query = new URLSearchParams({ search: term });
    if (after) {
      query.set('afterName', after.name);
      query.set('afterId', String(after.id));
    }
    try {
      const found = await ask<PeoplePage>('GET', `/api/people?${query.toString()}`);
      if (mine !== wanted.current) return;
      setPage((before) => (after ? { ...found, people: [...before.people, ...found.people] } : found));
      setError(undefined);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const begun = useRef(false);
  useEffect(() => {
    if (!begun.current) {
      begun.current = true;
      return undefined;
    }
    const timer = setTimeout(() => void load(search, null), 200);
    return () => clearTimeout(timer);
  }, [search]);

  const setLeft = async (person: Person, left: boolean): Promise<void> => {
    setLeaving(null);
    try {
      await ask('PUT', `/api/people/${person.id}/standing`, { left });
      const standing: Person['standing'] = left ? 'left' : 'active';
      setPage((before) => ({
        ...before,
        people: before.people.map((each) => (each.id === person.id ? { ...each, standing } : each)),
      }));
      setSaid(left ? `${person.name} has left and gets nothing more.` : `${person.name} is back.`);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };

  return (
    <>
      <h1 className="mb-4">People</h1>
      {mayChange ? (
        <AddPerson
          stations={stations}
          onAdded={(name) => {
            setSaid(`${name} was added and is from now on in every live group whose rule holds.`);
            void load(search, null);
          }}
        />
      ) : null}
      {mayChange ? <Clearance groups={groups} /> : null}
      {mayChange ? <Owners groups={groups} /> : null}
      <label className="mb-4 flex max-w-sm flex-col gap-1">
        Find by name, mail address or station
        <input
          type="search"
          className="input w-full"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      </label>
      <div aria-live="polite">{said === undefined ? null : <Notice tone="success">{said}</Notice>}</div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {page.people.length === 0 ? (
        <p className="text-quiet">Nobody of that name, address or station.</p>
      ) : (
        <ul className="ledger mt-4">
          {page.people.map((person) => (
            <li key={person.id}>
              <span className="margin text-sm">{zoneWords(person.zone)}</span>
              <span>
                <span className="font-semibold" dir="auto">
                  {person.name}
                </span>{' '}
                <span className="text-quiet">
                  {[person.role === 'member' ? '' : person.role, person.occupation, person.stationName]
                    .filter(Boolean)
                    .join(', ')}
                </span>
                <span className="block text-sm text-quiet">
                  {person.mail ?? 'no mail address: reached by inbox only'}
                </span>
                {mayChange ? <Contacts personId={person.id} personName={person.name} /> : null}
              </span>
              <span className="state flex flex-wrap items-center gap-2">
                {person.standing === 'active' ? null : (
                  <span className={person.standing === 'left' ? 'text-error' : 'text-warning'}>
                    {person.standing}
                  </span>
                )}
                {mayChange && person.id !== me ? (
                  person.standing === 'left' ? (
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      onClick={() => void setLeft(person, false)}
                      aria-label={`Mark ${person.name} as back`}
                    >
                      Mark as back
                    </button>
                  ) : (
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      onClick={() => setLeaving(person)}
                      aria-label={`Mark ${person.name} as left`}
                    >
                      Mark as left
                    </button>
                  )
                ) : null}
              </span>
            </li>
          ))}
        </ul>
      )}
      {page.next ? (
        <button type="button" className="btn btn-outline mt-4" onClick={() => void load(search, page.next)}>
          More people
        </button>
      ) : null}
      <Dialog
        open={leaving !== null}
        title={`Has ${leaving?.name ?? ''} left?`}
        onClose={() => setLeaving(null)}
        actions={
          <>
            <button type="button" className="btn btn-ghost" onClick={() => setLeaving(null)}>
              Keep as it is
            </button>
            <button
              type="button"
              className="btn btn-primary"
              onClick={() => leaving && void setLeft(leaving, true)}
            >
              Mark as left
            </button>
          </>
        }
      >
        <p>
          They are signed out at once and get nothing that has not gone yet. What they received and answered
          stays. They can be brought back.
        </p>
      </Dialog>
    </>
  );
}
