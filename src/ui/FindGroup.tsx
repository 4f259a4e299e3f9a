import { useState, type RefObject } from 'react';
import type { AudienceChoices } from '../core/audience/choices.ts';
import type { AudienceForm, Term } from '../core/audience/form.ts';
import type { Side } from './AddTerm.tsx';

/** So many groups are offered at once; a search finds the others. */
const MOST_OFFERED = 6;

/** Groups found by their name, each to be put in or left out. */
export function FindGroup({
  choices,
  form,
  field,
  onAdd,
}: {
  choices: AudienceChoices;
  form: AudienceForm;
  field: RefObject<HTMLInputElement | null>;
  onAdd: (side: Side, term: Term) => void;
}) {
  const [filter, setFilter] = useState('');
  const everyone = form.to.some((term) => term.kind === 'everyone');
  /** Its row goes with the press: the focus goes to where the next one is looked for. */
  const choose = (side: Side, id: number): void => {
    onAdd(side, { kind: 'group', id });
    setFilter('');
    field.current?.focus();
  };
  const chosen = (id: number): boolean =>
    [...form.to, ...form.except].some((term) => term.kind === 'group' && term.id === id);
  const words = filter.trim().toLowerCase().split(/\s+/).filter(Boolean);
  const found = choices.groups.filter(
    (group) => !chosen(group.id) && words.every((word) => group.name.toLowerCase().includes(word)),
  );
  const offered = found.slice(0, MOST_OFFERED);
  if (choices.groups.length === 0) return <p className="text-quiet">There are no groups yet.</p>;
  return (
    <div>
      <label className="flex flex-wrap items-center gap-2">
        Find a group
        <input
          ref={field}
          type="search"
          className="input w-64 grow"
          value={filter}
          dir="auto"
          onChange={(event) => setFilter(event.target.value)}
        />
      </label>
      <ul className="mt-1 grid gap-x-8 sm:grid-cols-2" aria-label="Groups">
        {offered.map((group) => (
          <li key={group.id}>
            <div
              role="group"
              aria-label={group.name}
              className="flex min-h-11 items-center justify-between gap-3 border-t border-base-300"
            >
              <span className="min-w-0">
                <span dir="auto">{group.name}</span>{' '}
                <span className="text-sm text-quiet">
                  {group.kind}
                  {group.needsClearance ? ', asks for clearance' : ''}
                </span>
              </span>
              <span className="flex gap-1">
                <button
                  type="button"
                  className="btn btn-outline btn-sm"
                  disabled={everyone}
                  onClick={() => choose('to', group.id)}
                >
                  To
                </button>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  onClick={() => choose('except', group.id)}
                >
                  Except
                </button>
              </span>
            </div>
          </li>
        ))}
      </ul>
      {found.length > offered.length ? (
        <p className="text-sm text-quiet">
          And {found.length - offered.length} more: type some letters of the name.
        </p>
      ) : found.length === 0 ? (
        <p className="text-sm text-quiet">
          {words.length === 0
            ? 'Every group is chosen.'
            : 'No group of that name that is not chosen already.'}
        </p>
      ) : null}
    </div>
  );
}
