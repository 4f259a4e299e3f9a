import type { ReactNode } from 'react';
import { NameSearch } from './NameSearch.tsx';

interface Named {
  id: number;
  name: string;
}

/** People who are named for something, each to be taken out again, and a field that names one more. */
export function NamedPeople<Person extends Named>({
  people,
  label,
  more,
  onName,
  onTakeOut,
}: {
  people: readonly Person[];
  /** Of the field that names one more. */
  label: string;
  /** What else is said of each. */
  more?: (person: Person) => ReactNode;
  onName: (person: Named) => void;
  onTakeOut: (id: number) => void;
}) {
  return (
    <>
      <ul className="mt-1">
        {people.map((person) => (
          <li
            key={person.id}
            className="flex min-h-11 flex-wrap items-center gap-x-3 border-t border-base-300"
          >
            <span className="grow" dir="auto">
              {person.name}
            </span>
            {more?.(person)}
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`Take ${person.name} out`}
              onClick={() => onTakeOut(person.id)}
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      <NameSearch
        label={label}
        onChoose={({ id, name }) => {
          if (!people.some((each) => each.id === id)) onName({ id, name });
        }}
      />
    </>
  );
}
