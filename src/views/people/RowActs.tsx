import { canBeInvited, isInvited } from '../../core/access/letter.ts';
import type { Listed } from './columns.tsx';

/** What those who look after people do with one of them. */
export interface PersonActs {
  change: (listed: Listed) => void;
  left: (listed: Listed, left: boolean) => void;
  invite: (listed: Listed) => void;
  withdraw: (listed: Listed) => void;
}

export function RowActs({ listed, isMe, acts }: { listed: Listed; isMe: boolean; acts: PersonActs }) {
  const { person, access } = listed;
  const left = person.standing === 'left';
  const act = (words: string, label: string, run: () => void) => (
    <button type="button" className="btn btn-ghost btn-sm" onClick={run} aria-label={label}>
      {words}
    </button>
  );
  return (
    <>
      {!left && canBeInvited(access)
        ? act(
            isInvited(access) ? 'Invite again' : 'Invite',
            isInvited(access) ? `Invite ${person.name} again` : `Invite ${person.name}`,
            () => acts.invite(listed),
          )
        : null}
      {!left && isInvited(access)
        ? act('Withdraw', `Withdraw the invitation of ${person.name}`, () => acts.withdraw(listed))
        : null}
      {act('Change', `Change ${person.name}`, () => acts.change(listed))}
      {isMe
        ? null
        : act(
            left ? 'Mark as back' : 'Mark as left',
            left ? `Mark ${person.name} as back` : `Mark ${person.name} as left`,
            () => acts.left(listed, !left),
          )}
    </>
  );
}
