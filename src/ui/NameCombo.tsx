import { useEffect, useRef, useState } from 'react';
import { ComboBox, Input, Label, ListBox, ListBoxItem, Popover } from 'react-aria-components';
import { Search } from 'lucide-react';
import { wordsOf } from './api.ts';
import { pathWith, useServer } from './server.ts';

/** The endpoints that find by name. */
export type FindsNames =
  '/api/names' | '/api/authors' | '/api/shelf/announcements' | `/api/boards/${number}/names`;

/** Somebody or some group found by name, as the names endpoint tells of them. */
export interface Found {
  kind: 'person' | 'group' | 'everybody' | 'announcement';
  id: number;
  name: string;
  detail: string;
}

export interface NameSearchProps {
  label: string;
  groups?: boolean;
  /** The endpoint that finds them. */
  from?: FindsNames;
  /** Who cannot be found and why, said where nobody is. */
  limits?: string;
  onChoose: (found: Found) => void;
}

/** Finds people, and groups where wanted, as their name is typed. Arrow keys go through what was found; Enter takes it. */
export function NameCombo({
  label,
  groups = false,
  from = '/api/names',
  limits = 'Those who have left, and linked contacts, are not found.',
  onChoose,
}: NameSearchProps) {
  const [text, setText] = useState('');
  // Whoever was chosen is not kept in the field: it begins anew, with the focus, for the next one.
  const [round, setRound] = useState(0);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (round > 0) field.current?.focus();
  }, [round]);
  const wanted = text.trim();
  const names = useServer(wanted === '' ? null : pathWith(from, { q: wanted }), {
    keepPrevious: true,
  });
  const found = (wanted === '' ? [] : (names.data ?? []))
    .filter((name) => groups || name.kind === 'person' || name.kind === 'announcement')
    .map((name) => ({ ...name, key: `${name.kind}-${name.id}` }));
  return (
    <ComboBox
      key={round}
      className="flex flex-col gap-1"
      items={found}
      inputValue={text}
      value={null}
      allowsCustomValue
      allowsEmptyCollection
      menuTrigger="input"
      onInputChange={setText}
      onChange={(key) => {
        const name = found.find((each) => each.key === key);
        if (!name) return;
        onChoose(name);
        setText('');
        setRound(round + 1);
      }}
    >
      <Label>{label}</Label>
      <div className="input flex w-full items-center gap-2">
        <Search size={16} aria-hidden className="text-quiet" />
        <Input ref={field} className="grow outline-none" autoComplete="off" dir="auto" />
      </div>
      <Popover className="floating z-50 w-(--trigger-width) border border-base-300 bg-base-100">
        <ListBox<(typeof found)[number]>
          className="max-h-64 overflow-y-auto outline-none"
          renderEmptyState={() => (
            <p className="px-3 py-2 text-quiet">
              {names.isError
                ? wordsOf(names.error)
                : names.isFetching
                  ? 'One moment …'
                  : wanted === ''
                    ? 'Type a few letters of a name.'
                    : `Nobody of that name. ${limits}`}
            </p>
          )}
        >
          {(name) => (
            <ListBoxItem
              id={name.key}
              textValue={name.name}
              className="flex min-h-11 cursor-pointer items-center justify-between gap-3 px-3 outline-none data-[focused]:bg-base-200"
            >
              <span dir="auto">{name.name}</span>
              <span className="text-sm text-quiet">{name.detail}</span>
            </ListBoxItem>
          )}
        </ListBox>
      </Popover>
    </ComboBox>
  );
}
