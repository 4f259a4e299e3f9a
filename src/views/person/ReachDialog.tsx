import { useId, useState } from 'react';
import { request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';

/** Chooses the groups an editor may write to. */
export function ReachDialog({
  person,
  reach,
  groups,
  onClose,
  onDone,
}: {
  person: { id: number; name: string };
  reach: readonly { id: number }[];
  groups: readonly { id: number; name: string }[];
  onClose: () => void;
  onDone: () => void;
}) {
  const id = useId();
  const [chosen, setChosen] = useState(() => new Set(reach.map((group) => group.id)));
  const [filter, setFilter] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const shown = groups.filter((group) => group.name.toLowerCase().includes(filter.trim().toLowerCase()));
  const save = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await request('PUT', `/api/people/${person.id}/reach`, { groupIds: [...chosen] });
      onDone();
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title={`Whom may ${person.name} write to?`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep it as it is
          </button>
          <button type="button" className="btn btn-primary" disabled={busy} onClick={() => void save()}>
            Let them write to {chosen.size === 1 ? '1 group' : `${chosen.size} groups`}
          </button>
        </>
      }
    >
      <label className="mb-2 flex flex-col gap-1">
        Find a group
        <input
          type="search"
          className="input w-full"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
      </label>
      <ul className="max-h-72 overflow-y-auto border-y border-base-300 py-1" aria-label="Groups">
        {shown.map((group) => (
          <li key={group.id}>
            <label className="flex min-h-11 items-center gap-2" htmlFor={`${id}-${group.id}`}>
              <input
                id={`${id}-${group.id}`}
                type="checkbox"
                className="checkbox"
                checked={chosen.has(group.id)}
                onChange={(event) => {
                  const next = new Set(chosen);
                  if (event.target.checked) next.add(group.id);
                  else next.delete(group.id);
                  setChosen(next);
                }}
              />
              {group.name}
            </label>
          </li>
        ))}
      </ul>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </Dialog>
  );
}
