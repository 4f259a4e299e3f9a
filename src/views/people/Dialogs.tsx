import type { Person } from '../../core/people/person.ts';
import { lazily } from '../../ui/lazily.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { HasLeft } from './HasLeft.tsx';
import { Invite } from './Invite.tsx';
import type { Station } from './PersonForm.tsx';

const PersonForm = lazily(() => import('./PersonForm.tsx').then((module) => module.PersonForm));

const PEOPLE = '/api/people';

/** What is open of the directory beside one person. */
export type Opened = 'add' | 'invite' | undefined;

/** What is asked before somebody is added or changed, has left, or is invited. */
export function Dialogs({
  opened,
  changing,
  leaving,
  stations,
  groups,
  onLeft,
  onClose,
}: {
  opened: Opened;
  changing: Person | null;
  leaving: Person | null;
  stations: Station[];
  groups: { id: number; name: string }[];
  onLeft: (person: Person) => void;
  onClose: () => void;
}) {
  return (
    <>
      {opened === 'add' || changing ? (
        <PersonForm
          person={changing}
          stations={stations}
          onClose={onClose}
          onDone={(name) => {
            onClose();
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
        onClose={onClose}
        onInvited={(words) => {
          onClose();
          void done(words);
          void refetch(PEOPLE);
        }}
      />
      <HasLeft
        name={leaving?.name ?? null}
        onClose={onClose}
        onLeft={() => {
          onClose();
          if (leaving) onLeft(leaving);
        }}
      />
    </>
  );
}
