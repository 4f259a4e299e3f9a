import { accessWords, canBeInvited, isInvited, type Access } from '../../core/access/letter.ts';
import type { Person } from '../../core/people/person.ts';
import { dateWords, zoneWords } from '../../core/timing/words.ts';

/** One person of the directory, with what those who look after people can do for them. */
export function PersonRow({
  person,
  access,
  mayChange,
  isMe,
  chosen,
  zone,
  nowMs,
  onChoose,
  onChange,
  onLeft,
  onInvite,
  onWithdraw,
}: {
  person: Person;
  access: Access | undefined;
  mayChange: boolean;
  isMe: boolean;
  chosen: boolean;
  /** The zone of whoever reads. */
  zone: string;
  nowMs: number;
  onChoose: (chosen: boolean) => void;
  onChange: () => void;
  onLeft: (left: boolean) => void;
  onInvite: () => void;
  onWithdraw: () => void;
}) {
  const left = person.standing === 'left';
  const standing = access && !left ? accessWords(access, zone, nowMs) : '';
  return (
    <li>
      <span className="margin flex flex-wrap items-start justify-end gap-2 text-sm">
        {zoneWords(person.zone)}
        {mayChange ? (
          <input
            type="checkbox"
            className="checkbox"
            aria-label={`Choose ${person.name}`}
            checked={chosen}
            onChange={(event) => onChoose(event.target.checked)}
          />
        ) : null}
      </span>
      <span>
        <a className="link-quiet font-semibold" href={`/person/${person.id}`} dir="auto">
          {person.name}
        </a>{' '}
        <span className="text-quiet">
          {[person.role === 'member' ? '' : person.role, person.occupation, person.stationName]
            .filter(Boolean)
            .join(', ')}
        </span>
        {person.guestUntil === null ? null : (
          <span className="badge badge-outline badge-sm ml-1">
            guest until {dateWords(Date.parse(`${person.guestUntil}T12:00:00Z`), 'UTC', nowMs)}
          </span>
        )}
        <span className="block text-sm text-quiet">
          {person.mail ?? 'no mail address: reached by inbox only'}
        </span>
        {standing === '' ? null : (
          <span
            className={`block text-sm ${access?.state === 'invited' && access.failed !== null ? 'text-error' : 'text-warning'}`}
          >
            {standing}
          </span>
        )}
      </span>
      <span className="state flex flex-wrap items-center gap-2">
        {person.standing === 'active' ? null : (
          <span className={left ? 'text-error' : 'text-warning'}>{person.standing}</span>
        )}
        {mayChange && !left && canBeInvited(access) ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={onInvite}
            aria-label={isInvited(access) ? `Invite ${person.name} again` : `Invite ${person.name}`}
          >
            {isInvited(access) ? 'Invite again' : 'Invite'}
          </button>
        ) : null}
        {mayChange && !left && isInvited(access) ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={onWithdraw}
            aria-label={`Withdraw the invitation of ${person.name}`}
          >
            Withdraw
          </button>
        ) : null}
        {mayChange ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={onChange}
            aria-label={`Change ${person.name}`}
          >
            Change
          </button>
        ) : null}
        {mayChange && !isMe ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => onLeft(!left)}
            aria-label={left ? `Mark ${person.name} as back` : `Mark ${person.name} as left`}
          >
            {left ? 'Mark as back' : 'Mark as left'}
          </button>
        ) : null}
      </span>
    </li>
  );
}
