import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { PeoplePage, Person } from '../../core/people/person.ts';
import { MOST_TOGETHER } from '../../core/people/together.ts';
import { lazily } from '../../ui/lazily.tsx';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { done } from '../../ui/toast.ts';
import { Invite } from './Invite.tsx';
import { PeopleFilter, type PeopleWished } from './PeopleFilter.tsx';
import type { Station } from './PersonForm.tsx';
import { HasLeft } from './HasLeft.tsx';
import { PersonRow } from './PersonRow.tsx';
import { usePersonActions } from './usePersonActions.ts';

const PersonForm = lazily(() => import('./PersonForm.tsx').then((module) => module.PersonForm));
const ChosenBar = lazily(() => import('./ChosenBar.tsx').then((module) => module.ChosenBar));

const SOON_MS = 200;
const PEOPLE = '/api/people';
const TOPICS = ['people'];
/** What of what is wished stands in an address: only what differs from everybody by name. */
const inAddress = ({ search, shown, order, audience }: PeopleWished): Record<string, string> => ({
  search: search.trim(),
  shown: shown === 'all' ? '' : shown,
  order: order === 'name' ? '' : order,
  audience: audience ? JSON.stringify(audience) : '',
});
const PLACES = [
  ['/groups', 'Groups'],
  ['/stations', 'Stations'],
  ['/kinds', 'Occupations and attributes'],
] as const;
const COORDINATORS_PLACES = [
  ['/rights', 'Rights'],
  ['/audit', 'What was done'],
  ['/people/import', 'Import'],
  ['/accounts', 'Accounts elsewhere'],
  ['/api/people.csv', 'Export as CSV'],
  ['/api/people.vcf', 'Export as vCard'],
] as const;

/** The directory: who is here, where, and how they can be reached. */
export default function People({
  first,
  asked,
  stations,
  mayChange,
  me,
  choices,
  zone,
  nowMs,
}: {
  first: PeoplePage;
  /** Which people the page came with. */
  asked: PeopleWished;
  stations: Station[];
  mayChange: boolean;
  me: number;
  choices: AudienceChoices;
  zone: string;
  nowMs: number;
}) {
  const [wished, setWished] = useState(asked);
  const [sought] = useDebounce(wished.search.trim(), SOON_MS);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
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
    path: (after) =>
      pathWith(PEOPLE, {
        ...inAddress({ ...wished, search: sought }),
        afterKey: after?.key,
        afterId: after?.id,
      }),
    next: (page) => page.next,
    first: { path: pathWith(PEOPLE, inAddress(asked)), page: first },
    topics: TOPICS,
  });
  useInAddress(inAddress({ ...wished, search: sought }));
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
      <PeopleFilter
        wished={wished}
        choices={mayChange ? choices : null}
        onChange={(next) => {
          setWished(next);
          setChosen(new Set());
        }}
      />
      {error === null ? null : <Notice tone="error">{wordsOf(error)}</Notice>}
      {people.length === 0 ? (
        <p className="text-quiet">
          {wished.audience || wished.shown !== 'all'
            ? 'Nobody is listed by what was chosen above.'
            : 'Nobody of that name, address or station.'}
        </p>
      ) : (
        <>
          {mayChange ? (
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="checkbox"
                disabled={!awake}
                checked={people.every((person) => chosen.has(person.id))}
                onChange={(event) =>
                  setChosen(new Set(event.target.checked ? people.map((person) => person.id) : []))
                }
              />
              Choose all {people.length} that are shown
            </label>
          ) : null}
          <ul className="ledger">
            {people.map((person) => (
              <PersonRow
                key={person.id}
                person={person}
                access={access[person.id]}
                mayChange={mayChange}
                isMe={person.id === me}
                chosen={chosen.has(person.id)}
                onChoose={(one) => {
                  const next = new Set(chosen);
                  if (one) next.add(person.id);
                  else next.delete(person.id);
                  setChosen(next);
                }}
                zone={zone}
                nowMs={nowMs}
                onChange={() => setChanging(person)}
                onLeft={(left) => (left ? setLeaving(person) : void setLeft(person, false))}
                onInvite={() => void invite(person)}
                onWithdraw={() => void withdraw(person)}
              />
            ))}
          </ul>
        </>
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
      {mayChange && chosen.size > 0 ? (
        <ChosenBar
          ids={[...chosen].slice(0, MOST_TOGETHER)}
          groups={choices.groups.filter((group) => group.kind === 'fixed')}
          stations={stations}
          onNone={() => setChosen(new Set())}
          onProblem={setProblem}
        />
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
        groups={choices.groups}
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
