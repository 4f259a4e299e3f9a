import type { Change } from '../core/content/change.ts';

/** Of what stayed the same, so many characters are shown at either side of a change. */
const AROUND = 110;

/** What changed in a text, word by word: what was put in, what was taken out, and what stands around it. */
export const Changes = ({ changes, none }: { changes: readonly Change[]; none: string }) => (
  <p className="max-h-72 overflow-auto bg-base-100 p-3 text-sm whitespace-pre-wrap" dir="auto">
    {changes.every((change) => change.kind === 'same') ? none : null}
    {changes.map((change, i) =>
      change.kind === 'in' ? (
        <ins key={i} className="bg-success/20 no-underline">
          {change.text}
        </ins>
      ) : change.kind === 'out' ? (
        <del key={i} className="bg-error/20">
          {change.text}
        </del>
      ) : (
        <span key={i}>
          {change.text.length > 2 * AROUND + 20
            ? `${change.text.slice(0, AROUND)} … ${change.text.slice(-AROUND)}`
            : change.text}
        </span>
      ),
    )}
  </p>
);
