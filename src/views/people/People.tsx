import { useMemo, useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { PeoplePage, Person } from '../../core/people/person.ts';
import { MOST_TOGETHER } from '../../core/people/together.ts';
import { lazily } from '../../ui/lazily.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServer } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { PeopleFilter, type PeopleWished } from './PeopleFilter.tsx';
import { Dialogs, type Opened } from './Dialogs.tsx';
import type { Station } from './PersonForm.tsx';
import { Top, Total } from './peopleParts.tsx';
import { PeopleTable } from './PeopleTable.tsx';
import { partPath } from './usePeopleRows.ts';
import { usePersonActions } from './usePersonActions.ts';

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
  const [opened, setOpened] = useState<Opened>();
  const [changing, setChanging] = useState<Person | null>(null);
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
      <Top mayChange={mayChange} onOpen={setOpened} />
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
      <Total
        count={count}
        narrowed={wished.audience !== null || wished.shown !== 'all'}
        stations={hasStations}
        onChooseAll={mayChange ? () => void chooseAll() : null}
      />
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
      <Dialogs
        opened={opened}
        changing={changing}
        leaving={leaving}
        stations={stations}
        groups={choices.groups}
        onLeft={(person) => void setLeft(person, true)}
        onClose={() => {
          setOpened(undefined);
          setChanging(null);
          setLeaving(null);
        }}
      />
    </>
  );
}
