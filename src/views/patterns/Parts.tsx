import { useId } from 'react';
import type { PartLine } from '../../core/patterns/page.ts';
import { PATTERN_KINDS, PATTERN_WORDS, type PatternKind } from '../../core/patterns/pattern.ts';
import { count, list } from '../../core/words.ts';

/** How many parts of each kind, in words. */
export const holdsWords = (holds: Partial<Record<PatternKind, number>>): string =>
  list(
    PATTERN_KINDS.flatMap((kind) => {
      const n = holds[kind] ?? 0;
      return n === 0 ? [] : [count(n, PATTERN_WORDS[kind].one, PATTERN_WORDS[kind].many)];
    }),
    'and',
  );

/** The parts of a pattern or of a place, in the order in which they are made, each with what it says. */
export function Parts<Part extends PartLine>({
  label,
  parts,
  chosen,
  onChoose,
  problemOf,
}: {
  label: string;
  parts: readonly Part[];
  /** Which are chosen, by key; left out where nothing is chosen here. */
  chosen?: ReadonlySet<string>;
  onChoose?: (key: string, on: boolean) => void;
  /** What is wrong with one. */
  problemOf?: (part: Part) => string | null;
}) {
  return (
    <ul className="border-t border-base-300" aria-label={label}>
      {parts.map((part) => (
        <Line
          key={part.key}
          part={part}
          problem={problemOf?.(part) ?? null}
          {...(chosen && onChoose
            ? { chosen: chosen.has(part.key), onChoose: (on: boolean) => onChoose(part.key, on) }
            : {})}
        />
      ))}
    </ul>
  );
}

function Line({
  part: { kind, name, says },
  problem,
  chosen,
  onChoose,
}: {
  part: PartLine;
  problem: string | null;
  chosen?: boolean;
  onChoose?: (on: boolean) => void;
}) {
  const id = useId();
  const heading = (
    <>
      <span className="grow font-semibold" dir="auto">
        {name || 'Without a title'}
      </span>
      <span className="text-sm text-quiet">{PATTERN_WORDS[kind].one}</span>
    </>
  );
  return (
    <li className="border-b border-base-300 py-2">
      {onChoose ? (
        <label htmlFor={id} className="flex min-h-11 items-center gap-3">
          <input
            id={id}
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={chosen === true}
            onChange={(event) => onChoose(event.target.checked)}
          />
          {heading}
        </label>
      ) : (
        <span className="flex flex-wrap items-baseline gap-x-3">{heading}</span>
      )}
      <span className={onChoose ? 'block pl-9' : 'block'}>
        {says.map((words) => (
          <span key={words} className="block text-sm text-quiet" dir="auto">
            {words}
          </span>
        ))}
        {problem === null ? null : <span className="block text-sm text-error">{problem}</span>}
      </span>
    </li>
  );
}
