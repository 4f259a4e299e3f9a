import { useState } from 'react';
import { ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

export interface Group {
  id: number;
  name: string;
  kind: 'live' | 'fixed';
  needsClearance: boolean;
  owner: string | null;
}

/** The groups, and which of them ask that what goes to them is cleared by a second person. */
export function Clearance({ groups: first }: { groups: Group[] }) {
  const [groups, setGroups] = useState(first);
  const [error, setError] = useState<string>();
  const awake = useAwake();
  const set = async (id: number, needed: boolean): Promise<void> => {
    const show = (needsClearance: boolean): void =>
      setGroups((before) => before.map((group) => (group.id === id ? { ...group, needsClearance } : group)));
    setError(undefined);
    show(needed);
    try {
      await ask('PUT', `/api/groups/${id}/clearance`, { needed });
    } catch (problem) {
      show(!needed);
      setError(wordsOf(problem));
    }
  };
  return (
    <details className="mb-6 border border-base-300 bg-base-100 px-4">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold text-primary">
        Groups that ask for clearance
      </summary>
      <p className="text-quiet">What goes to these is cleared by a second person before it can be sent.</p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <ul className="grid gap-x-8 pb-3 sm:grid-cols-2">
        {groups.map((group) => (
          <li key={group.id} className="border-t border-base-300">
            <label className="flex min-h-11 cursor-pointer items-center justify-between gap-3">
              <span>
                {group.name} <span className="text-sm text-quiet">{group.kind}</span>
              </span>
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                checked={group.needsClearance}
                disabled={!awake}
                onChange={(event) => void set(group.id, event.target.checked)}
              />
            </label>
          </li>
        ))}
      </ul>
    </details>
  );
}
