import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { PeoplePage, Person } from '../../core/people/person.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { done } from '../../ui/toast.ts';
import { Invite } from './Invite.tsx';
import { PersonForm, type Station } from './PersonForm.tsx';
import { HasLeft } from './HasLeft.tsx';
import { PersonRow } from './PersonRow.tsx';
import { usePersonActions } from './usePersonActions.ts';

const SOON_MS = 200;
const PEOPLE = '/api/people';
const TOPICS = ['people'];
const PLACES = [
  ['/groups', 'Groups'],
  ['/stations', 'Stations'],
] as const;
const COORDINATORS_PLACES = [
  ['/rights', 'Rights'],
  ['/audit', 'What was done'],
  ['/people/import', 'Import'],
  ['/api/people.csv', 'Export as CSV'],
  ['/api/people.vcf', 'Export as vCard'],
] as const;

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
  const { setLeft, invite, withdraw } = usePersonActions(setProblem);
  const error = problem ?? list.error;

  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">People</h1>
        {mayChange ? (
          <>
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
      <nav aria-label="More about people" className="mb-4 flex flex-wrap gap-x-6">
        {[...PLACES, ...(mayChange ? COORDINATORS_PLACES : [])].map(([path, words]) => (
          <a
            key={path}
            className="link-quiet flex min-h-11 items-center"
            href={path}
            download={path.startsWith('/api/') ? '' : undefined}
          >
            {words}
          </a>
        ))}
      </nav>
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
      <HasLeft
        name={leaving?.name ?? null}
        onClose={() => setLeaving(null)}
        onLeft={() => {
          setLeaving(null);
          if (leaving) void setLeft(leaving, true);
        }}
      />
    </>
  );
}
