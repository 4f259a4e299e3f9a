import { canBeInvited, isInvited } from '../../core/access/letter.ts';
import type { PersonPage } from '../../core/people/page.ts';
import { useAwake } from '../../ui/useAwake.ts';
import type { OpenAbout } from './PersonDialogs.tsx';

/** The name of somebody, and what can be done about them. */
export function PersonHead({
  page: { person, access },
  me,
  onOpen,
  onInvite,
  onWithdraw,
  onBack,
}: {
  page: PersonPage;
  me: number;
  onOpen: (what: OpenAbout) => void;
  onInvite: () => void;
  onWithdraw: () => void;
  /** They had left, and are here again. */
  onBack: () => void;
}) {
  const awake = useAwake();
  const hasLeft = person.standing === 'left';
  return (
    <div className="mb-1 flex flex-wrap items-center gap-2">
      <h1 className="mr-auto" dir="auto">
        {person.name}
      </h1>
      <a className="btn btn-ghost" href="/people">
        People
      </a>
      {!hasLeft && canBeInvited(access) ? (
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={onInvite}>
          {isInvited(access) ? 'Invite again' : 'Invite'}
        </button>
      ) : null}
      {!hasLeft && isInvited(access) ? (
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={onWithdraw}>
          Withdraw the invitation
        </button>
      ) : null}
      {hasLeft ? (
        <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => onOpen('erase')}>
          Erase
        </button>
      ) : null}
      <a className="btn btn-ghost" href={`/api/people/${person.id}/data.zip`} download>
        All that is kept
      </a>
      <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => onOpen('merge')}>
        Merge
      </button>
      {person.id === me ? null : (
        <button
          type="button"
          className="btn btn-outline"
          disabled={!awake}
          onClick={() => (hasLeft ? onBack() : onOpen('left'))}
        >
          {hasLeft ? 'Mark as back' : 'Mark as left'}
        </button>
      )}
      <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => onOpen('change')}>
        Change
      </button>
    </div>
  );
}
