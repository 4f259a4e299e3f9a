import { useMemo, useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { PeoplePage, Person } from '../../core/people/person.ts';
import { MOST_TOGETHER } from '../../core/people/together.ts';
import { lazily } from '../../ui/lazily.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { people as peopleWords } from '../../core/words.ts';
import { pathWith, refetch, useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { done } from '../../ui/toast.ts';
import { Invite } from './Invite.tsx';
import { PeopleFilter, type PeopleWished } from './PeopleFilter.tsx';
import type { Station } from './PersonForm.tsx';
import { HasLeft } from './HasLeft.tsx';
import { PeopleTable } from './PeopleTable.tsx';
import { partPath } from './usePeopleRows.ts';
import { usePersonActions } from './usePersonActions.ts';

const PersonForm = lazily(() => import('./PersonForm.tsx').then((module) => module.PersonForm));
const ChosenBar = lazily(() => import('./ChosenBar.tsx').then((module) => module.ChosenBar));

const SOON_MS = 200;
const PEOPLE = '/api/people';
const TOPICS = ['people'];
/** Who is asked for, as a query says it: only what differs from everybody. */
const whoIn = ({ search, shown, audience }: PeopleWished): Record<string, string> => ({
  search: search.trim(),
  shown: shown === 'all' ? '' : shown,
  audience: audience ? JSON.stringify(audience) : '',
});
/** As `whoIn`, with the order, where it differs from that by name. */
const inAddress = (wished: PeopleWished): Record<string, string> => ({
  ...whoIn(wished),
  order: wished.order === 'name' ? '' : wished.order,
  turned: wished.turned,
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

const sameWords = (a: object, b: object): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The directory: who is here, where, and how they can be reached. */
export default function People({
  first,
  count: firstCount,
  asked,
  stations,
  mayChange,
  me,
  choices,
  zone,
  nowMs,
}: {
  first: PeoplePage;
  /** How many there are of those the page came with. */
  count: number;
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
  const hasStations = stations.length > 0 || choices.stations.length > 0;
  const [firstQuery] = useState(() => ({ who: whoIn(asked), all: inAddress(asked) }));
  const now = { ...wished, search: sought };
  const query = inAddress(now);
  const counted = useServer(pathWith(`${PEOPLE}/count`, whoIn(now)), {
    first: sameWords(whoIn(now), firstQuery.who) ? { count: firstCount } : undefined,
    topics: TOPICS,
    keepPrevious: true,
  });
  useInAddress(query);
  const count = counted.data?.count ?? 0;
  const attributes = useMemo(
    () => (mayChange ? choices.attributes.map(({ name }) => name) : []),
    [choices, mayChange],
  );
  const { setLeft, invite, withdraw } = usePersonActions(setProblem);
  const error = problem ?? counted.error;
  const choose = (ids: readonly number[], one: boolean): void =>
    setChosen((before) => {
      const next = new Set(before);
      for (const id of ids)
        if (one) next.add(id);
        else next.delete(id);
      return next;
    });
  const chooseAll = async (): Promise<void> => {
    try {
      const { ids } = await request('GET', pathWith(`${PEOPLE}/ids`, whoIn(now)));
      setChosen(new Set(ids));
    } catch (failed) {
      setProblem(failed);
    }
  };

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
        stations={hasStations}
        choices={mayChange ? choices : null}
        onChange={(next) => {
          setWished(next);
          setChosen(new Set());
        }}
      />
      {error === null ? null : <Notice tone="error">{wordsOf(error)}</Notice>}
      <div className="flex min-h-11 flex-wrap items-center gap-x-4">
        <p role="status" className="text-quiet">
          {count === 0
            ? wished.audience || wished.shown !== 'all'
              ? 'Nobody is listed by what was chosen above.'
              : hasStations
                ? 'Nobody of that name, address or station.'
                : 'Nobody of that name or address.'
            : peopleWords(count)}
        </p>
        {mayChange && count > 0 ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() => void chooseAll()}
          >
            {count <= MOST_TOGETHER
              ? `Choose all ${count.toLocaleString('en-GB')}`
              : `Choose the first ${MOST_TOGETHER.toLocaleString('en-GB')} by name`}
          </button>
        ) : null}
      </div>
      {count === 0 ? null : (
        <PeopleTable
          count={count}
          query={query}
          first={{ path: partPath(firstQuery.all, 0), part: first }}
          order={wished.order}
          turned={wished.turned === 'yes'}
          attributes={attributes}
          stations={hasStations}
          mayChange={mayChange}
          me={me}
          chosen={chosen}
          acts={{
            change: ({ person }) => setChanging(person),
            left: ({ person }, left) => (left ? setLeaving(person) : void setLeft(person, false)),
            invite: ({ person }) => void invite(person),
            withdraw: ({ person }) => void withdraw(person),
          }}
          zone={zone}
          nowMs={nowMs}
          onOrder={(order, turned) => setWished({ ...wished, order, turned: turned ? 'yes' : '' })}
          onChoose={choose}
        />
      )}
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
