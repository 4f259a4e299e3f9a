import { useState } from 'react';
import { FOUND_KINDS, type FoundKind } from '../../core/search/query.ts';
import type { Search } from '../../core/search/searchSchema.ts';
import { DateField } from '../../ui/DateField.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';

const KIND_WORDS: Record<FoundKind, string> = {
  announcement: 'announcements',
  post: 'posts',
  reply: 'replies',
  answer: 'answers on the shelf',
  link: 'key links of boards',
  'check-in': 'check-ins',
};

/** What is searched for, without the place in the list of what is found. */
export type Filters = Omit<Search, 'after'>;

const number = (value: string): number | undefined => (value === '' ? undefined : Number(value));

/** A choice of one of some, or of any. */
function Choice({
  label,
  any = 'any',
  value,
  options,
  onChoose,
}: {
  label: string;
  any?: string;
  value: string | number | undefined;
  options: readonly { id: string | number; name: string }[];
  onChoose: (value: string) => void;
}) {
  return (
    <label className="flex flex-col gap-1">
      {label}
      <select
        className="select w-full"
        value={value ?? ''}
        onChange={(event) => onChoose(event.target.value)}
      >
        <option value="">{any}</option>
        {options.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

/** By what a search is narrowed. */
export function NarrowFields({
  filters,
  author,
  boards,
  groups,
  categories,
  onSet,
}: {
  filters: Filters;
  /** The name of whom it is narrowed to as the page came. */
  author: string | null;
  boards: { id: number; name: string }[];
  groups: { id: number; name: string }[];
  categories: string[];
  onSet: (part: Partial<Filters>) => void;
}) {
  const [authorName, setAuthorName] = useState(author);
  return (
    <div className="grid gap-3 pb-2 sm:grid-cols-3">
      <Choice
        label="Among"
        any="everything"
        value={filters.kind}
        options={FOUND_KINDS.map((kind) => ({ id: kind, name: KIND_WORDS[kind] }))}
        onChoose={(value) => onSet({ kind: FOUND_KINDS.find((kind) => kind === value) })}
      />
      <Choice
        label="On the board"
        value={filters.board}
        options={boards}
        onChoose={(value) => onSet({ board: number(value) })}
      />
      <Choice
        label="On the boards of the group"
        value={filters.group}
        options={groups}
        onChoose={(value) => onSet({ group: number(value) })}
      />
      <Choice
        label="Category"
        value={filters.category}
        options={categories.map((name) => ({ id: name, name }))}
        onChoose={(category) => onSet({ category })}
      />
      <DateField
        label="From"
        value={filters.from ?? ''}
        onChange={(from) => onSet({ from: from === '' ? undefined : from })}
      />
      <DateField
        label="To"
        value={filters.to ?? ''}
        onChange={(to) => onSet({ to: to === '' ? undefined : to })}
      />
      <div>
        {filters.author === undefined ? (
          <NameSearch
            label="Written by"
            from="/api/authors"
            onChoose={(name) => {
              setAuthorName(name.name);
              onSet({ author: name.id });
            }}
          />
        ) : (
          <p>
            Written by <strong dir="auto">{authorName}</strong>{' '}
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              onClick={() => onSet({ author: undefined })}
            >
              Anybody
            </button>
          </p>
        )}
      </div>
      <label className="flex min-h-11 cursor-pointer items-center gap-3 self-end">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={filters.asks === true}
          onChange={(event) => onSet({ asks: event.target.checked ? true : undefined })}
        />
        That ask something
      </label>
    </div>
  );
}
