import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { PeoplePage, Person } from '../../core/people/person.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { done } from '../../ui/toast.ts';
import { Invite } from './Invite.tsx';
import { PersonForm, type Station } from './PersonForm.tsx';
import { PersonRow } from './PersonRow.tsx';

const SOON_MS = 200;
const PEOPLE = '/api/people';
const TOPICS = ['people'];

/** The directory: who is here, where, and how they can be reached. */
export default function People({
  first,
  stations,
  mayChange,
  me,
  groups,
  zone,
  nowMs,
}: {
  first: PeoplePage;
  stations: Station[];
  mayChange: boolean;
  me: number;
  groups: { id: number; name: string }[];
  zone: string;
  nowMs: number;
}) {
  const [search, setSearch] = useState('');
  const [sought] = useDebounce(search.trim(), SOON_MS);
  const [problem, setProblem] = useState<unknown>();
  const [leaving, setLeaving] = useState<Person | null>(null);
  const [opened, setOpened] = useState<'add' | 'invite'>();
  const [changing, setChanging] = useState<Person | null>(null);
  const close = (): void => {
    setOpened(undefined);
    setChanging(null);
  };
  const awake = useAwake();
  const list = useServerPages<PeoplePage, NonNullable<PeoplePage['next']>>({
    path: (after) => pathWith(PEOPLE, { search: sought, afterName: after?.name, afterId: after?.id }),
    next: (page) => page.next,
    first: { path: PEOPLE, page: first },
    topics: TOPICS,
  });
  const pages = list.data?.pages ?? [];
  const people = pages.flatMap((page) => page.people);
  const access = Object.assign({}, ...pages.map((page) => page.access)) as PeoplePage['access'];
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setProblem(undefined);
    try {
      await work();
      await refetch(PEOPLE);
    } catch (error) {
      setProblem(error);
    }
  };
  const setLeft = (person: Person, left: boolean): Promise<void> =>
    act(async () => {
      setLeaving(null);
      await ask('PUT', `/api/people/${person.id}/standing`, { left });
      void done(left ? `${person.name} has left and gets nothing more.` : `${person.name} is back.`, () =>
        setLeft(person, !left),
      );
    });
  const invite = (person: Person): Promise<void> =>
    act(async () => {
      await ask('POST', '/api/invitations', { to: { kind: 'people', ids: [person.id] }, words: '' });
      void done(`An invitation goes out to ${person.name} now.`);
    });
  const withdraw = (person: Person): Promise<void> =>
    act(async () => {
      await ask('DELETE', `/api/people/${person.id}/invitation`);
      void done(`The invitation of ${person.name} can no longer be used.`);
    });
  const error = problem ?? list.error;

  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">People</h1>
        <a className="btn btn-ghost" href="/groups">
          Groups
        </a>
        <a className="btn btn-ghost" href="/stations">
          Stations
        </a>
        {mayChange ? (
          <>
            <a className="btn btn-ghost" href="/people/import">
              Import
            </a>
            <a className="btn btn-ghost" href="/api/people.csv" download>
              As CSV
            </a>
            <a className="btn btn-ghost" href="/api/people.vcf" download>
              As vCard
            </a>
            <button
              type="button"
              className="btn btn-outline"
              disabled={!awake}
              onClick={() => setOpened('invite')}
            >
              Invite those not in yet
            </button>
            <button
              type="button"
              className="btn btn-primary"
              disabled={!awake}
              onClick={() => setOpened('add')}
            >
              Add a person
            </button>
          </>
        ) : null}
      </div>
      <label className="mb-4 flex max-w-sm flex-col gap-1">
        Find by name, mail address or station
        <input
          type="search"
          className="input w-full"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      </label>
      {error === null ? null : <Notice tone="error">{wordsOf(error)}</Notice>}
      {people.length === 0 ? (
        <p className="text-quiet">Nobody of that name, address or station.</p>
      ) : (
        <ul className="ledger mt-4">
          {people.map((person) => (
            <PersonRow
              key={person.id}
              person={person}
              access={access[person.id]}
              mayChange={mayChange}
              isMe={person.id === me}
              zone={zone}
              nowMs={nowMs}
              onChange={() => setChanging(person)}
              onLeft={(left) => (left ? setLeaving(person) : void setLeft(person, false))}
              onInvite={() => void invite(person)}
              onWithdraw={() => void withdraw(person)}
            />
          ))}
        </ul>
      )}
      {list.hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={list.isFetchingNextPage}
          onClick={() => void list.fetchNextPage()}
        >
          More people
        </button>
      ) : null}
      {opened === 'add' || changing ? (
        <PersonForm
          person={changing}
          stations={stations}
          onClose={close}
          onDone={(name) => {
            close();
            void done(
              changing
                ? `${name} is changed.`
                : `${name} was added and is from now on in every live group whose rule holds.`,
            );
            void refetch(PEOPLE);
          }}
        />
      ) : null}
      <Invite
        open={opened === 'invite'}
        groups={groups}
        onClose={() => setOpened(undefined)}
        onInvited={(words) => {
          setOpened(undefined);
          void done(words);
          void refetch(PEOPLE);
        }}
      />
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
