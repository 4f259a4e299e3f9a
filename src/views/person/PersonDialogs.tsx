import type { SignOnLine } from '../../core/access/provider.ts';
import type { PersonPage } from '../../core/people/page.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { HasLeft } from '../people/HasLeft.tsx';
import { PersonForm, type Station } from '../people/PersonForm.tsx';
import { MergeDialog } from './MergeDialog.tsx';
import { ReachDialog } from './ReachDialog.tsx';

const LeaveDialog = lazily(
  () => import('./LeaveDialog.tsx').then((module) => module.LeaveDialog),
  () => null,
);
const EraseDialog = lazily(
  () => import('./EraseDialog.tsx').then((module) => module.EraseDialog),
  () => null,
);

/** What is open about somebody. */
export type OpenAbout = 'change' | 'reach' | 'left' | 'second step' | 'leave' | 'erase' | 'merge';

/** The question before an account or the second step is taken away. */
function TakeAway({
  page: { person },
  account,
  onClose,
}: {
  page: PersonPage;
  /** The second step where it is none. */
  account: SignOnLine | undefined;
  onClose: () => void;
}) {
  const path = `/api/people/${person.id}` as const;
  return account ? (
    <Confirm
      title={`Take away the account at ${account.provider}?`}
      detail={`It no longer signs in as ${person.name}. The next account there that fits is taken in its place, such as after theirs was made anew.`}
      button="Take it away"
      onClose={onClose}
      onConfirm={async () => {
        await request('DELETE', `${path}/sign-on/${account.providerId}`);
        void done(`${account.provider} no longer signs in as ${person.name}.`);
        void refetch(path);
      }}
    />
  ) : (
    <Confirm
      title={`Take away the second step of ${person.name}?`}
      detail="For somebody who has lost phone and key. They then sign in with their password or by mail alone, and are told by mail. Make sure that it is they who ask."
      button="Take it away"
      onClose={onClose}
      onConfirm={async () => {
        await request('DELETE', `${path}/second-factor`);
        void done(`${person.name} signs in without a second step.`);
        void refetch(path);
      }}
    />
  );
}

/** The dialog that is open about somebody. */
export function PersonDialogs({
  page,
  opened,
  forgetting,
  stations,
  groups,
  onLeft,
  onClose,
}: {
  page: PersonPage;
  opened: OpenAbout | undefined;
  /** The account at a provider that is to be taken away. */
  forgetting: SignOnLine | undefined;
  stations: Station[];
  groups: { id: number; name: string }[];
  onLeft: () => void;
  onClose: () => void;
}) {
  const { person } = page;
  const path = `/api/people/${person.id}` as const;
  if (forgetting || opened === 'second step')
    return <TakeAway page={page} account={forgetting} onClose={onClose} />;
  if (opened === 'change')
    return (
      <PersonForm
        person={person}
        attributes={page.attributes}
        stations={stations}
        onClose={onClose}
        onDone={(name) => {
          onClose();
          void done(`${name} is changed.`);
          void refetch('/api/people');
        }}
      />
    );
  if (opened === 'reach')
    return (
      <ReachDialog
        person={person}
        reach={page.reach}
        groups={groups}
        onClose={onClose}
        onDone={() => {
          onClose();
          void done(`Whom ${person.name} may write to is changed.`);
          void refetch(path);
        }}
      />
    );
  if (opened === 'leave')
    return (
      <LeaveDialog
        path={path}
        name={person.name}
        leave={page.leave}
        onClose={onClose}
        onDone={(words) => {
          onClose();
          void done(words);
          void refetch(path);
        }}
      />
    );
  if (opened === 'merge')
    return (
      <MergeDialog
        person={person}
        onClose={onClose}
        onDone={(name) => {
          onClose();
          void done(`${name} is merged into ${person.name}.`);
          void refetch(path);
          void refetch(`${path}/addresses`);
        }}
      />
    );
  if (opened === 'erase')
    return (
      <EraseDialog
        path={path}
        name={person.name}
        onClose={onClose}
        onDone={() => location.assign('/people')}
      />
    );
  if (opened === 'left')
    return (
      <HasLeft
        name={person.name}
        onClose={onClose}
        onLeft={() => {
          onClose();
          onLeft();
        }}
      />
    );
  return null;
}
