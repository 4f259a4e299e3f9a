import { X } from 'lucide-react';
import { useState } from 'react';
import { BUNDLINGS, BUNDLING_WORDS } from '../../core/bundling/bundling.ts';
import type { GroupPage } from '../../core/groups/group.ts';
import { requestAnywhere, wordsOf } from '../../ui/api.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import type { Takes } from '../../ui/client.ts';

type CarePart = 'owners' | 'clearance' | 'calling' | 'bundling';

/** Who looks after a group, and whether what goes to it is cleared by a second person first. */
export function Care({ group, onChanged }: { group: GroupPage; onChanged: () => Promise<void> }) {
  const [choosing, setChoosing] = useState(false);
  const [error, setError] = useState<string>();
  /** As it was just set, until the page has it. */
  const [set, setSet] = useState<{ clearance?: boolean; calling?: boolean }>({});
  const awake = useAwake();
  const put = async <Part extends CarePart>(
    part: Part,
    body: Takes<'PUT', `/api/groups/${number}/${Part}`>,
  ): Promise<void> => {
    setError(undefined);
    try {
      await requestAnywhere('PUT', `/api/groups/${group.id}/${part}`, body);
      setChoosing(false);
      await onChanged();
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setSet({});
  };
  return (
    <div className="mb-6 flex flex-col gap-1">
      <div className="flex min-h-11 flex-wrap items-center gap-3">
        <span dir="auto">
          {group.owners.length === 0 ? 'Nobody looks after it.' : 'Looked after by'}{' '}
          {group.owners.map(({ id, name }) => (
            <span key={id} className="mr-2 inline-flex items-center">
              {name}
              {group.mayChange ? (
                <button
                  type="button"
                  className="btn btn-ghost btn-sm btn-square"
                  aria-label={`${name} no longer looks after it`}
                  title="No longer"
                  disabled={!awake}
                  onClick={() => void put('owners', { personId: id, looksAfter: false })}
                >
                  <X aria-hidden="true" className="size-4" />
                </button>
              ) : null}
            </span>
          ))}
          <span className="text-sm text-quiet">
            Whoever does sees its part of each roll, and is told who is missing.
          </span>
        </span>
        {group.mayChange ? (
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={!awake}
            aria-expanded={choosing}
            onClick={() => setChoosing(!choosing)}
          >
            {group.owners.length === 0 ? 'Choose who' : 'Choose another too'}
          </button>
        ) : null}
      </div>
      {choosing ? (
        <div className="max-w-sm">
          <NameSearch
            label={`Who looks after ${group.name}`}
            onChoose={(found) => void put('owners', { personId: found.id, looksAfter: true })}
          />
        </div>
      ) : null}
      <label className="flex min-h-11 items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={set.clearance ?? group.needsClearance}
          disabled={!awake || !group.mayChange}
          onChange={(event) => {
            setSet({ clearance: event.target.checked });
            void put('clearance', { needed: event.target.checked });
          }}
        />
        What goes to it is cleared by a second person first
      </label>
      <label className="flex min-h-11 items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={set.calling ?? group.callable}
          disabled={!awake || !group.mayChange}
          onChange={(event) => {
            setSet({ calling: event.target.checked });
            void put('calling', { callable: event.target.checked });
          }}
        />
        Whoever is on a board with them may call on them all there, and nobody else is disturbed
      </label>
      <label className="flex min-h-11 flex-wrap items-center gap-x-3">
        Routine announcements come to those in it
        <select
          className="select w-auto max-w-full"
          value={group.bundling ?? ''}
          disabled={!awake || !group.mayChange}
          onChange={(event) =>
            void put('bundling', {
              bundling: BUNDLINGS.find((each) => each === event.target.value) ?? null,
            })
          }
        >
          <option value="">as to everybody</option>
          {BUNDLINGS.map((bundling) => (
            <option key={bundling} value={bundling}>
              {BUNDLING_WORDS[bundling]}
            </option>
          ))}
        </select>
      </label>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </div>
  );
}
