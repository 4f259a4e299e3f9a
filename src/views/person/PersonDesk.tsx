import { useState } from 'react';
import type { SignOnLine } from '../../core/access/provider.ts';
import type { PersonPage } from '../../core/people/page.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';
import { useNow } from '../../ui/useNow.ts';
import type { Station } from '../people/PersonForm.tsx';
import { usePersonActions } from '../people/usePersonActions.ts';
import { Addresses } from './Addresses.tsx';
import { Contacts } from './Contacts.tsx';
import { History } from './facts.tsx';
import { Identities } from './Identities.tsx';
import { PersonDialogs, type OpenAbout } from './PersonDialogs.tsx';
import { InGroups, PersonFacts } from './PersonFacts.tsx';
import { PersonHead } from './PersonHead.tsx';

/** Somebody as those who look after people see them: who they are, how they are reached, what they are in, and what was done. */
export default function PersonDesk({
  first,
  stations,
  groups,
  me,
  zone,
  nowMs: startMs,
}: {
  first: PersonPage;
  stations: Station[];
  groups: { id: number; name: string }[];
  me: number;
  zone: string;
  nowMs: number;
}) {
  const path = `/api/people/${first.person.id}` as const;
  const { data: page = first } = useServer(path, { first, topics: ['people'] });
  const { person } = page;
  const nowMs = useNow(startMs, 30_000);
  const [opened, setOpened] = useState<OpenAbout>();
  const [forgetting, setForgetting] = useState<SignOnLine>();
  const [problem, setProblem] = useState<unknown>();
  const { setLeft, invite, withdraw, trustAddress } = usePersonActions(setProblem);
  const hasLeft = person.standing === 'left';
  return (
    <>
      <PersonHead
        page={page}
        me={me}
        onOpen={setOpened}
        onInvite={() => void invite(person)}
        onWithdraw={() => void withdraw(person)}
        onBack={() => void setLeft(person, false)}
      />
      <p className="mb-4 text-quiet">
        {[person.role === 'member' ? '' : person.role, person.occupation, person.stationName]
          .filter(Boolean)
          .join(', ')}
        {person.standing === 'active' ? null : (
          <span className={hasLeft ? 'text-error' : 'text-warning'}> {person.standing}</span>
        )}
      </p>
      {problem === undefined ? null : <Notice tone="error">{wordsOf(problem)}</Notice>}
      <PersonFacts
        page={page}
        me={me}
        zone={zone}
        nowMs={nowMs}
        onOpen={setOpened}
        onTrust={() => void trustAddress(person)}
        onForget={setForgetting}
      />
      <InGroups page={page} />
      <div className="mb-8">
        <Contacts personId={person.id} personName={person.name} />
      </div>
      <div className="mb-8">
        <Addresses personId={person.id} personName={person.name} />
      </div>
      <div className="mb-8">
        <Identities personId={person.id} personName={person.name} />
      </div>
      <History page={page} zone={zone} />
      <PersonDialogs
        page={page}
        opened={opened}
        forgetting={forgetting}
        stations={stations}
        groups={groups}
        onLeft={() => void setLeft(person, true)}
        onClose={() => {
          setOpened(undefined);
          setForgetting(undefined);
        }}
      />
    </>
  );
}
