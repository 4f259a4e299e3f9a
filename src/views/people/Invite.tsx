import { useState } from 'react';
import { lastsFor, MOST_WORDS, type Invited } from '../../core/access/letter.ts';
import type { Invitation } from '../../core/access/schemas.ts';
import { count, people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useWorkedOut } from '../../ui/server.ts';

/** Whom an invitation leaves out, as a sentence; empty where it leaves out nobody. */
export function leftOutWords({ withoutAddress, inAlready }: Invited): string {
  const parts = [
    inAlready > 0 ? `${count(inAlready, 'has', 'have')} signed in before` : '',
    withoutAddress > 0 ? `${count(withoutAddress, 'has', 'have')} no mail address` : '',
  ].filter(Boolean);
  return parts.length === 0 ? '' : `Of the others ${parts.join(', and ')}.`;
}

/** An invitation to everybody who is not in yet, or to those of a group, with a text of one's own. */
export function Invite({
  open,
  groups,
  onClose,
  onInvited,
}: {
  open: boolean;
  groups: { id: number; name: string }[];
  onClose: () => void;
  onInvited: (said: string) => void;
}) {
  const [groupId, setGroupId] = useState<number | null>(null);
  const [words, setWords] = useState('');
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const to: Invitation['to'] = groupId === null ? { kind: 'everybody' } : { kind: 'group', id: groupId };

  const reach = useWorkedOut(open ? '/api/invitations/count' : null, { to }, { keepPrevious: false });

  const send = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const done = await request('POST', '/api/invitations', { to, words });
      setWords('');
      void refetch('/api/invitations/count');
      onInvited(
        done.invited === 0
          ? 'There was nobody left to invite.'
          : `Invitations go out to ${people(done.invited)} now.`,
      );
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setBusy(false);
  };
  const counted = reach.data;
  const problem = error ?? (reach.error ? wordsOf(reach.error) : undefined);
  return (
    <Dialog
      open={open}
      title="Invite those who are not in yet"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Invite nobody
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || !counted || counted.invited === 0}
            onClick={() => void send()}
          >
            {counted && counted.invited > 0 ? `Invite ${people(counted.invited)}` : 'Invite'}
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-4">
        <label className="flex flex-col gap-1">
          Whom
          <select
            className="select w-full"
            value={groupId ?? ''}
            onChange={(event) => setGroupId(event.target.value === '' ? null : Number(event.target.value))}
          >
            <option value="">everybody</option>
            {groups.map((group) => (
              <option key={group.id} value={group.id}>
                {group.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          What you want to say with it
          <textarea
            className="textarea w-full"
            rows={4}
            dir="auto"
            maxLength={MOST_WORDS}
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
        </label>
        <p role="status">
          {counted === undefined
            ? 'Counting …'
            : counted.invited === 0
              ? 'There is nobody to invite.'
              : `Goes by mail to ${people(counted.invited)}, each with a link of their own that lets them in once, within ${lastsFor('invitation')}.`}{' '}
          <span className="text-quiet">{counted === undefined ? '' : leftOutWords(counted)}</span>
        </p>
        {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
      </div>
    </Dialog>
  );
}
