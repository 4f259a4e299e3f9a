import { NameSearch } from '../../ui/NameSearch.tsx';

interface Named {
  id: number;
  name: string;
}

/** Who can be found to moderate or own a board, said where somebody is not. */
const NOT_FOUND_HERE =
  'Those are found who can see this board. Whoever is not in its group is put into it first; those who have left are never found.';

/** Who moderates a board, and who owns it; changed by whoever may. */
export function Moderators({
  boardId,
  moderators,
  owner,
  locked,
  coordinator,
  onAppoint,
  onOwner,
}: {
  boardId: number;
  moderators: readonly (Named & { owner: boolean })[];
  owner: Named | null;
  /** Whether nothing can be changed. */
  locked: boolean;
  coordinator: boolean;
  onAppoint: (person: Named, moderates: boolean) => void;
  onOwner: (person: Named) => void;
}) {
  return (
    <section aria-labelledby="moderators" className="border-t border-base-300 pt-4">
      <h2 id="moderators">Who moderates</h2>
      <ul>
        {moderators.map((person) => (
          <li
            key={person.id}
            className="flex min-h-11 items-center justify-between gap-3 border-b border-base-300"
          >
            <span dir="auto">
              {person.name}
              {person.owner ? <span className="text-sm text-quiet"> · owner, moderates always</span> : null}
            </span>
            {locked || person.owner ? null : (
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                aria-label={`Take ${person.name} out of the moderators`}
                onClick={() => onAppoint(person, false)}
              >
                Take out
              </button>
            )}
          </li>
        ))}
        {moderators.length === 0 ? <li className="text-quiet">Only the coordinators.</li> : null}
      </ul>
      {locked ? null : (
        <div className="mt-3 grid max-w-2xl gap-3 sm:grid-cols-2">
          <NameSearch
            label="Add a moderator"
            limits={NOT_FOUND_HERE}
            from={`/api/boards/${boardId}/names`}
            onChoose={(found) => onAppoint(found, true)}
          />
          {coordinator ? (
            <NameSearch
              label={owner ? `Give it another owner than ${owner.name}` : 'Give it an owner'}
              from={`/api/boards/${boardId}/names`}
              limits={NOT_FOUND_HERE}
              onChoose={onOwner}
            />
          ) : null}
        </div>
      )}
    </section>
  );
}
