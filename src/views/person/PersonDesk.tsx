import { useState } from 'react';
import { accessWords, canBeInvited, isInvited } from '../../core/access/letter.ts';
import type { SignOnLine } from '../../core/access/provider.ts';
import type { PersonPage } from '../../core/people/page.ts';
import { dateWords, nearWords, timeWords, zoneWords } from '../../core/timing/words.ts';
import { count, list } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { useNow } from '../../ui/useNow.ts';
import { Addresses } from './Addresses.tsx';
import { Fact, History, Links } from './facts.tsx';
import { MergeDialog } from './MergeDialog.tsx';
import { Contacts } from './Contacts.tsx';
import { Identities } from './Identities.tsx';
import { HasLeft } from '../people/HasLeft.tsx';
import { PersonForm, type Station } from '../people/PersonForm.tsx';
import { usePersonActions } from '../people/usePersonActions.ts';
import { ReachDialog } from './ReachDialog.tsx';

const day = (date: string, nowMs: number): string => dateWords(Date.parse(`${date}T12:00:00Z`), 'UTC', nowMs);

const LeaveDialog = lazily(
  () => import('./LeaveDialog.tsx').then((module) => module.LeaveDialog),
  () => null,
);
const EraseDialog = lazily(
  () => import('./EraseDialog.tsx').then((module) => module.EraseDialog),
  () => null,
);

/** When somebody is on leave, in words. */
function leaveWords({ leave, person }: PersonPage, nowMs: number): string {
  if (!leave) return person.standing === 'on leave' ? 'yes, no date is noted' : 'no';
  const until = leave.until === null ? 'until further notice' : `to ${day(leave.until, nowMs)}`;
  return `from ${day(leave.from, nowMs)} ${until}`;
}

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
  const { person, access } = page;
  const nowMs = useNow(startMs, 30_000);
  const [opened, setOpened] = useState<
    'change' | 'reach' | 'left' | 'second step' | 'leave' | 'erase' | 'merge'
  >();
  const [forgetting, setForgetting] = useState<SignOnLine>();
  const [problem, setProblem] = useState<unknown>();
  const { setLeft, invite, withdraw, trustAddress } = usePersonActions(setProblem);
  const awake = useAwake();
  const close = (): void => setOpened(undefined);
  const hasLeft = person.standing === 'left';
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-2">
        <h1 className="mr-auto" dir="auto">
          {person.name}
        </h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
        {!hasLeft && canBeInvited(access) ? (
          <button
            type="button"
            className="btn btn-outline"
            disabled={!awake}
            onClick={() => void invite(person)}
          >
            {isInvited(access) ? 'Invite again' : 'Invite'}
          </button>
        ) : null}
        {!hasLeft && isInvited(access) ? (
          <button
            type="button"
            className="btn btn-outline"
            disabled={!awake}
            onClick={() => void withdraw(person)}
          >
            Withdraw the invitation
          </button>
        ) : null}
        {hasLeft ? (
          <button
            type="button"
            className="btn btn-ghost"
            disabled={!awake}
            onClick={() => setOpened('erase')}
          >
            Erase
          </button>
        ) : null}
        <a className="btn btn-ghost" href={`/api/people/${person.id}/data.zip`} download>
          All that is kept
        </a>
        <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => setOpened('merge')}>
          Merge
        </button>
        {person.id === me ? null : (
          <button
            type="button"
            className="btn btn-outline"
            disabled={!awake}
            onClick={() => (hasLeft ? void setLeft(person, false) : setOpened('left'))}
          >
            {hasLeft ? 'Mark as back' : 'Mark as left'}
          </button>
        )}
        <button
          type="button"
          className="btn btn-primary"
          disabled={!awake}
          onClick={() => setOpened('change')}
        >
          Change
        </button>
      </div>
      <p className="mb-4 text-quiet">
        {[person.role === 'member' ? '' : person.role, person.occupation, person.stationName]
          .filter(Boolean)
          .join(', ')}
        {person.standing === 'active' ? null : (
          <span className={hasLeft ? 'text-error' : 'text-warning'}> {person.standing}</span>
        )}
      </p>
      {problem === undefined ? null : <Notice tone="error">{wordsOf(problem)}</Notice>}
      <dl className="mb-8">
        <Fact name="Mail address">
          {person.mail ?? 'none: reached by inbox only'}
          {person.mailFails === null ? null : (
            <span className="mt-1 block">
              <span className="text-error">Mail there comes back, and none is sent</span>
              {person.mailFails === '' ? '. ' : `: ${person.mailFails} `}
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                disabled={!awake}
                onClick={() => void trustAddress(person)}
              >
                Send mail there again
              </button>
            </span>
          )}
        </Fact>
        {person.sortName === '' && person.greeting === '' ? null : (
          <Fact name="Name">
            {[
              person.sortName === '' ? '' : `sorted as ${person.sortName}`,
              person.greeting === '' ? '' : `greeted as ${person.greeting}`,
            ]
              .filter(Boolean)
              .join('; ')}
          </Fact>
        )}
        <Fact name="Reads by">
          the clock of {zoneWords(person.zone)}, where it is {timeWords(nowMs, person.zone)}
        </Fact>
        <Fact name="Joined">{day(person.joinedOn, nowMs)}</Fact>
        {person.guestUntil === null ? null : (
          <Fact name="Guest from outside">
            until {day(person.guestUntil, nowMs)}, on chosen boards and in chosen groups only
          </Fact>
        )}
        <Fact name="Getting in">
          {access.state === 'in'
            ? `in since ${nearWords(access.atMs, zone, nowMs)}; ${page.sessions === 0 ? 'signed in nowhere just now' : `signed in in ${count(page.sessions, 'browser', 'browsers')}`}`
            : accessWords(access, zone, nowMs)}
        </Fact>
        {hasLeft ? null : (
          <Fact name="On leave">
            {leaveWords(page, nowMs)}{' '}
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={!awake}
              onClick={() => setOpened('leave')}
            >
              {page.leave ? 'Change the leave' : 'Note a leave'}
            </button>
          </Fact>
        )}
        {page.signOns.map((account) => (
          <Fact key={account.providerId} name={account.provider}>
            signs them in since {nearWords(account.sinceMs, zone, nowMs)}{' '}
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={!awake}
              aria-label={`Take away the account at ${account.provider}`}
              onClick={() => setForgetting(account)}
            >
              Take it away
            </button>
          </Fact>
        ))}
        {page.secondStep ? (
          <Fact name="Second step">
            taken when signing in{' '}
            {person.id === me ? null : (
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                disabled={!awake}
                onClick={() => setOpened('second step')}
              >
                Take it away
              </button>
            )}
          </Fact>
        ) : null}
        {page.absences.length > 0 ? (
          <Fact name="Away">
            {list(
              page.absences.map(({ from, to }) =>
                from === to ? day(from, nowMs) : `${day(from, nowMs)} to ${day(to, nowMs)}`,
              ),
              'and',
            )}
          </Fact>
        ) : null}
        {page.attributes.map(({ name, value }) => (
          <Fact key={name} name={name}>
            {value}
          </Fact>
        ))}
        {page.moderates.length > 0 ? (
          <Fact name="Moderates">
            <Links found={page.moderates} at="/boards" />
          </Fact>
        ) : null}
        {page.owns.length > 0 ? (
          <Fact name="Looks after">
            <Links found={page.owns} at="/groups" />
          </Fact>
        ) : null}
        {person.role === 'editor' ? (
          <Fact name="May write to">
            {page.reach.length === 0 ? 'no group yet ' : <Links found={page.reach} at="/groups" />}
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={!awake}
              onClick={() => setOpened('reach')}
            >
              Choose whom
            </button>
          </Fact>
        ) : null}
      </dl>
      <section aria-labelledby="groups" className="mb-8">
        <h2 id="groups" className="mb-2">
          Groups
        </h2>
        {page.groups.length === 0 ? (
          <p className="border-y border-base-300 py-3 text-quiet">
            {hasLeft ? 'Who has left is in no group.' : 'In no group.'}
          </p>
        ) : (
          <ul className="border-t border-base-300">
            {page.groups.map((group) => (
              <li key={group.id} className="border-b border-base-300 py-2">
                <a className="link-quiet font-semibold" href={`/groups/${group.id}`} dir="auto">
                  {group.name}
                </a>{' '}
                <span className="text-sm text-quiet">{group.why}</span>
              </li>
            ))}
          </ul>
        )}
      </section>
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
      {opened === 'change' ? (
        <PersonForm
          person={person}
          attributes={page.attributes}
          stations={stations}
          onClose={close}
          onDone={(name) => {
            close();
            void done(`${name} is changed.`);
            void refetch('/api/people');
          }}
        />
      ) : null}
      {opened === 'reach' ? (
        <ReachDialog
          person={person}
          reach={page.reach}
          groups={groups}
          onClose={close}
          onDone={() => {
            close();
            void done(`Whom ${person.name} may write to is changed.`);
            void refetch(path);
          }}
        />
      ) : null}
      {opened === 'leave' ? (
        <LeaveDialog
          path={path}
          name={person.name}
          leave={page.leave}
          onClose={close}
          onDone={(words) => {
            close();
            void done(words);
            void refetch(path);
          }}
        />
      ) : null}
      {opened === 'merge' ? (
        <MergeDialog
          person={person}
          onClose={close}
          onDone={(name) => {
            close();
            void done(`${name} is merged into ${person.name}.`);
            void refetch(path);
            void refetch(`${path}/addresses`);
          }}
        />
      ) : null}
      {opened === 'erase' ? (
        <EraseDialog
          path={path}
          name={person.name}
          onClose={close}
          onDone={() => location.assign('/people')}
        />
      ) : null}
      {forgetting ? (
        <Confirm
          title={`Take away the account at ${forgetting.provider}?`}
          detail={`It no longer signs in as ${person.name}. The next account there that fits is taken in its place, such as after theirs was made anew.`}
          button="Take it away"
          onClose={() => setForgetting(undefined)}
          onConfirm={async () => {
            await request('DELETE', `${path}/sign-on/${forgetting.providerId}`);
            void done(`${forgetting.provider} no longer signs in as ${person.name}.`);
            void refetch(path);
          }}
        />
      ) : null}
      {opened === 'second step' ? (
        <Confirm
          title={`Take away the second step of ${person.name}?`}
          detail="For somebody who has lost phone and key. They then sign in with their password or by mail alone, and are told by mail. Make sure that it is they who ask."
          button="Take it away"
          onClose={close}
          onConfirm={async () => {
            await request('DELETE', `${path}/second-factor`);
            void done(`${person.name} signs in without a second step.`);
            void refetch(path);
          }}
        />
      ) : null}
      <HasLeft
        name={opened === 'left' ? person.name : null}
        onClose={close}
        onLeft={() => {
          close();
          void setLeft(person, true);
        }}
      />
    </>
  );
}
