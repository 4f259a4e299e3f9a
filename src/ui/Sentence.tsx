import { useEffect, useRef, type ReactNode } from 'react';

/** One phrase: what is said before it, and the words that are pressed to change it. */
interface SentencePhrase<K extends string> {
  key: K;
  lead: string;
  words: string;
}

/** A sentence whose phrases are pressed; the pressed one opens its panel above. Escape closes it. */
export function Sentence<K extends string>({
  phrases,
  labels,
  open,
  onOpen,
  panel,
  over = false,
}: {
  phrases: readonly SentencePhrase<K>[];
  /** What each phrase says, for screen readers. */
  labels: Record<K, string>;
  open: K | null;
  onOpen: (key: K | null) => void;
  panel: (key: K) => ReactNode;
  /** Whether the panel lies over what stands above the sentence, beside which the rest of the page stays in sight. */
  over?: boolean;
}) {
  const region = useRef<HTMLDivElement>(null);
  const buttons = useRef(new Map<K, HTMLButtonElement>());
  useEffect(() => {
    if (open) region.current?.querySelector<HTMLElement>('input, select, button')?.focus();
  }, [open]);
  const close = (): void => {
    const pressed = open;
    onOpen(null);
    if (pressed) buttons.current.get(pressed)?.focus();
  };
  return (
    <>
      {open ? (
        // Escape closes the panel from wherever the focus is inside it.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions
        <div
          ref={region}
          role="group"
          aria-label={labels[open]}
          className={`floating mb-3 max-h-[55vh] overflow-y-auto border border-base-300 bg-base-100 p-4 ${
            over
              ? 'sm:absolute sm:bottom-full sm:left-4 sm:z-30 sm:mb-1 sm:w-[min(48rem,calc(100%-2rem))]'
              : ''
          }`}
          onKeyDown={(event) => {
            if (event.key === 'Escape') close();
          }}
        >
          {panel(open)}
          <div className="mt-3 text-right">
            <button type="button" className="btn btn-outline" onClick={close}>
              Done
            </button>
          </div>
        </div>
      ) : null}
      <p className="leading-8 sm:text-lg">
        {phrases.map((phrase, i) => (
          <span key={phrase.key}>
            {phrase.lead === '' ? '' : `${phrase.lead} `}
            <button
              type="button"
              ref={(element) => {
                if (element) buttons.current.set(phrase.key, element);
              }}
              className="phrase"
              aria-expanded={open === phrase.key}
              aria-label={`${labels[phrase.key]}: ${phrase.words}`}
              onClick={() => onOpen(open === phrase.key ? null : phrase.key)}
            >
              {phrase.words}
              <span className="text-base-content">{i < phrases.length - 1 ? ',' : '.'}</span>
            </button>{' '}
          </span>
        ))}
      </p>
    </>
  );
}
