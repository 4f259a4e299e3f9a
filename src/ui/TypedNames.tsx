import type { Typed } from './typedMention.ts';

const WIDTH = 320;

/** Whom the letters after an @ may mean, under where they are written. */
export function TypedNames({ typed, id }: { typed: Typed | null; id: string }) {
  if (!typed?.place || typed.found.length === 0) return null;
  const left = Math.max(8, Math.min(typed.place.left, innerWidth - WIDTH - 8));
  return (
    <ul
      id={id}
      role="listbox"
      aria-label="Whom to call on"
      style={{ position: 'fixed', left, top: typed.place.top + 4, width: WIDTH }}
      className="floating z-50 max-h-64 max-w-[calc(100vw-16px)] overflow-y-auto border border-base-300 bg-base-100"
    >
      {typed.found.map((found, i) => (
        <li
          key={`${found.kind}-${found.id}`}
          id={`${id}-${i}`}
          role="option"
          aria-selected={i === typed.at}
          className="flex min-h-11 cursor-pointer items-center justify-between gap-3 px-3 aria-selected:bg-base-200"
          // Before the press takes the focus out of the text.
          onMouseDown={(event) => {
            event.preventDefault();
            typed.take(found);
          }}
        >
          <span dir="auto">{found.name}</span>
          <span className="text-sm text-quiet">{found.detail}</span>
        </li>
      ))}
    </ul>
  );
}
