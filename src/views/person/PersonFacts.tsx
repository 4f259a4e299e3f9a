import { accessWords } from '../../core/access/letter.ts';
import type { SignOnLine } from '../../core/access/provider.ts';
import type { PersonPage } from '../../core/people/page.ts';
import { dateWords, nearWords, timeWords, zoneWords } from '../../core/timing/words.ts';
import { count, list } from '../../core/words.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Fact, Links } from './facts.tsx';
import type { OpenAbout } from './PersonDialogs.tsx';

const day = (date: string, nowMs: number): string => dateWords(Date.parse(`${date}T12:00:00Z`), 'UTC', nowMs);

/** When somebody is on leave, in words. */
function leaveWords({ leave, person }: PersonPage, nowMs: number): string {
  if (!leave) return person.standing === 'on leave' ? 'yes, no date is noted' : 'no';
  const until = leave.until === null ? 'until further notice' : `to ${day(leave.until, nowMs)}`;
  return `from ${day(leave.from, nowMs)} ${until}`;
}

function MailFact({ person, onTrust }: { person: PersonPage['person']; onTrust: () => void }) {
  const awake = useAwake();
  return (
    <Fact name="Mail address">
      {person.mail ?? 'none: reached by inbox only'}
      {person.mailFails === null ? null : (
        <span className="mt-1 block">
          <span className="text-error">Mail there comes back, and none is sent</span>
          {person.mailFails === '' ? '. ' : `: ${person.mailFails} `}
          <button type="button" className="btn btn-ghost btn-sm" disabled={!awake} onClick={onTrust}>
            Send mail there again
          </button>
        </span>
      )}
    </Fact>
  );
}

function NameFact({ person }: { person: PersonPage['person'] }) {
  if (person.sortName === '' && person.greeting === '') return null;
  return (
    <Fact name="Name">
      {[
        person.sortName === '' ? '' : `sorted as ${person.sortName}`,
        person.greeting === '' ? '' : `greeted as ${person.greeting}`,
      ]
        .filter(Boolean)
        .join('; ')}
    </Fact>
  );
}

interface SignInProps {
  page: PersonPage;
  me: number;
  zone: string;
  nowMs: number;
  onOpen: (what: OpenAbout) => void;
  onForget: (account: SignOnLine) => void;
}

/** By which accounts somebody signs in, and whether with a second step. */
function SignInFacts({ page, me, zone, nowMs, onOpen, onForget }: SignInProps) {
  const awake = useAwake();
  const { person } = page;
  return (
    <>
      {page.signOns.map((account) => (
        <Fact key={account.providerId} name={account.provider}>
          signs them in since {nearWords(account.sinceMs, zone, nowMs)}{' '}
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            aria-label={`Take away the account at ${account.provider}`}
            onClick={() => onForget(account)}
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
              onClick={() => onOpen('second step')}
            >
              Take it away
            </button>
          )}
        </Fact>
      ) : null}
    </>
  );
}

/** What somebody looks after, and whom they may write to. */
function DutyFacts({ page, onOpen }: Pick<SignInProps, 'page' | 'onOpen'>) {
  const awake = useAwake();
  return (
    <>
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
      {page.person.role === 'editor' ? (
        <Fact name="May write to">
          {page.reach.length === 0 ? 'no group yet ' : <Links found={page.reach} at="/groups" />}
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() => onOpen('reach')}
          >
            Choose whom
          </button>
        </Fact>
      ) : null}
    </>
  );
}

/** What is known of somebody, line by line. */
export function PersonFacts({
  page,
  me,
  zone,
  nowMs,
  onOpen,
  onTrust,
  onForget,
}: SignInProps & { onTrust: () => void }) {
  const awake = useAwake();
  const { person, access } = page;
  const hasLeft = person.standing === 'left';
  return (
    <dl className="mb-8">
      <MailFact person={person} onTrust={onTrust} />
      <NameFact person={person} />
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
            onClick={() => onOpen('leave')}
          >
            {page.leave ? 'Change the leave' : 'Note a leave'}
          </button>
        </Fact>
      )}
      <SignInFacts page={page} me={me} zone={zone} nowMs={nowMs} onOpen={onOpen} onForget={onForget} />
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
      <DutyFacts page={page} onOpen={onOpen} />
    </dl>
  );
}

/** The groups somebody is in, and why. */
export function InGroups({ page }: { page: PersonPage }) {
  const hasLeft = page.person.standing === 'left';
  return (
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
  );
}
