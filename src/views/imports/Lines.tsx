import type { ClashDecision, OutcomeKind } from '../../core/imports/comparing.ts';
import type { ImportLine } from '../../core/imports/import.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

const EMPTY: Record<OutcomeKind, string> = {
  new: 'Nobody in it is new.',
  changed: 'Nothing changes about anybody.',
  returns: 'Nobody in it has left.',
  same: 'Nobody is as they are here.',
  clash: 'Nothing clashes: it is clear whose row each is.',
  wrong: 'Every row can be used.',
};
const DECISION_WORDS: Record<ClashDecision, string> = {
  'same person': 'the same person',
  'new person': 'somebody new',
  'leave out': 'leave the row out',
};

/** The rows of one kind, with what each changes or why it cannot be used; of a clash it is said here whose it is. */
export function Lines({
  kind,
  lines,
  pending,
  error,
  mayDecide,
  onDecide,
}: {
  kind: OutcomeKind;
  lines: ImportLine[];
  pending: boolean;
  error: Error | null;
  mayDecide: boolean;
  onDecide: (line: number, decision: ClashDecision, all: boolean) => void;
}) {
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (pending) return <p className="text-quiet">The rows are on their way.</p>;
  if (lines.length === 0) return <p className="border-y border-base-300 py-3 text-quiet">{EMPTY[kind]}</p>;
  const open = lines.filter((line) => line.kind === 'clash');
  const common = (['same person', 'new person'] as const).filter((decision) =>
    open.some((line) => line.choices.includes(decision)),
  );
  return (
    <>
      {mayDecide && open.length > 1 && common.length > 0 ? (
        <p className="mb-3 flex flex-wrap items-center gap-2">
          Wherever it can be said, each is
          {common.map((decision) => (
            <button
              key={decision}
              type="button"
              className="btn btn-outline btn-sm"
              onClick={() => onDecide(open[0]?.line ?? 0, decision, true)}
            >
              {DECISION_WORDS[decision]}
            </button>
          ))}
        </p>
      ) : null}
      <ul className="ledger">
        {lines.map((line) => (
          <li key={line.line}>
            <span className="margin figure">{line.line.toLocaleString('en-GB')}</span>
            <span>
              <span className="font-semibold" dir="auto">
                {line.name === '' ? 'no name' : line.name}
              </span>{' '}
              <span className="text-quiet" dir="auto">
                {line.detail}
              </span>
              {line.changes.map((change) => (
                <span key={change.what} className="block text-sm">
                  {change.what}:{' '}
                  <del className="text-quiet">{change.from === '' ? 'nothing' : change.from}</del>{' '}
                  <ins className="no-underline">{change.to}</ins>
                </span>
              ))}
              {line.why === '' ? null : (
                <span className={`block text-sm ${kind === 'wrong' ? 'text-error' : 'text-warning'}`}>
                  {line.why}
                </span>
              )}
            </span>
            <span className="state">
              {line.choices.length === 0 ? null : (
                <select
                  className="select select-sm w-44"
                  aria-label={`The row of ${line.name} is`}
                  disabled={!mayDecide}
                  value={line.decision ?? ''}
                  onChange={(event) => onDecide(line.line, event.target.value as ClashDecision, false)}
                >
                  {line.decision === null ? <option value="">not decided</option> : null}
                  {line.choices.map((choice) => (
                    <option key={choice} value={choice}>
                      {DECISION_WORDS[choice]}
                    </option>
                  ))}
                </select>
              )}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
