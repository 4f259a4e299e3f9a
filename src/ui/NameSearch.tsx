import { useEffect, useId, useRef, useState } from 'react';
import { ask } from './api.ts';

/** Somebody or some group found by name, as the names endpoint tells of them. */
export interface Found {
  kind: 'person' | 'group' | 'everybody';
  id: number;
  name: string;
  detail: string;
}

const SOON_MS = 150;

/** Finds people, and groups where wanted, as their name is typed. Arrow keys go through what was found; Enter takes it. */
export function NameSearch({
  label,
  groups = false,
  from = '/api/names',
  onChoose,
}: {
  label: string;
  groups?: boolean;
  /** The endpoint that finds them. */
  from?: string;
  onChoose: (found: Found) => void;
}) {
  const [text, setText] = useState('');
  const [found, setFound] = useState<Found[]>([]);
  const [active, setActive] = useState(0);
  const latest = useRef(0);
  const list = useId();
  useEffect(() => {
    const mine = ++latest.current;
    if (text.trim().length === 0) return undefined;
    const timer = setTimeout(() => {
      ask<Found[]>('GET', `${from}?q=${encodeURIComponent(text)}`).then(
        (names) => {
          if (mine !== latest.current) return;
          setFound(groups ? names : names.filter((name) => name.kind === 'person'));
          setActive(0);
        },
        () => setFound([]),
      );
    }, SOON_MS);
    return () => clearTimeout(timer);
  }, [text, groups, from]);
  const choose = (name: Found): void => {
    onChoose(name);
    setText('');
    setFound([]);
  };
  const shown = text.trim() === '' ? [] : found;
  return (
    <div className="relative">
      <label className="flex flex-col gap-1">
        {label}
        <input
          type="text"
          role="combobox"
          className="input w-full"
          autoComplete="off"
          value={text}
          aria-expanded={shown.length > 0}
          aria-controls={list}
          aria-activedescendant={shown.length > 0 ? `${list}-${active}` : undefined}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
              event.preventDefault();
              const step = event.key === 'ArrowDown' ? 1 : -1;
              setActive((at) => Math.max(0, Math.min(shown.length - 1, at + step)));
            } else if (event.key === 'Enter') {
              event.preventDefault();
              const name = shown[active];
              if (name) choose(name);
            } else if (event.key === 'Escape' && text !== '') {
              event.stopPropagation();
              setText('');
            }
          }}
        />
      </label>
      <ul
        id={list}
        role="listbox"
        aria-label={label}
        hidden={shown.length === 0}
        className="floating absolute inset-x-0 z-40 max-h-64 overflow-y-auto border border-base-300 bg-base-100"
      >
        {shown.map((name, i) => (
          <li
            key={`${name.kind}${name.id}`}
            id={`${list}-${i}`}
            role="option"
            aria-selected={i === active}
            className={`flex min-h-11 cursor-pointer items-center justify-between gap-3 px-3 ${i === active ? 'bg-base-200' : ''}`}
            // The press must not take the focus from the field before it is heard.
            onPointerDown={(event) => {
              event.preventDefault();
              choose(name);
            }}
          >
            <span dir="auto">{name.name}</span>
            <span className="text-sm text-quiet">{name.detail}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
