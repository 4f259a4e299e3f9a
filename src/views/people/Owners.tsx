import { useState } from 'react';
import { ask, wordsOf } from '../../ui/api.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import type { Group } from './Clearance.tsx';

/** Who looks after each group: they see its part of every roll, and are told who is missing. */
export function Owners({ groups: first }: { groups: Group[] }) {
  const [groups, setGroups] = useState(first);
  const [choosing, setChoosing] = useState<number>();
  const [error, setError] = useState<string>();
  const awake = useAwake();
  const set = async (id: number, person: { id: number; name: string } | null): Promise<void> => {
    setError(undefined);
    try {
      await ask('PUT', `/api/groups/${id}/owner`, { personId: person?.id ?? null });
      setGroups((before) =>
        before.map((group) => (group.id === id ? { ...group, owner: person?.name ?? null } : group)),
      );
      setChoosing(undefined);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  return (
    <details className="mb-6 border border-base-300 bg-base-100 px-4">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold text-primary">
        Who looks after each group
      </summary>
      <p className="text-quiet">
        They see who of their group has answered what was asked, and are told who is missing where a chase
        says so.
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <ul className="pb-3">
        {groups.map((group) => (
          <li key={group.id} className="border-t border-base-300 py-1">
            <div className="flex min-h-11 flex-wrap items-center gap-3">
              <span className="flex-1">{group.name}</span>
              <span dir="auto" className={group.owner === null ? 'text-quiet' : ''}>
                {group.owner ?? 'nobody'}
              </span>
              <button
                type="button"
                className="btn btn-outline"
                disabled={!awake}
                aria-label={`Choose who looks after ${group.name}`}
                onClick={() => setChoosing(choosing === group.id ? undefined : group.id)}
              >
                Choose
              </button>
              {group.owner === null ? null : (
                <button
                  type="button"
                  className="btn btn-outline"
                  disabled={!awake}
                  aria-label={`Nobody looks after ${group.name}`}
                  onClick={() => void set(group.id, null)}
                >
                  Nobody
                </button>
              )}
            </div>
            {choosing === group.id ? (
              <NameSearch
                label={`Who looks after ${group.name}`}
                onChoose={(found) => void set(group.id, found)}
              />
            ) : null}
          </li>
        ))}
      </ul>
    </details>
  );
}
