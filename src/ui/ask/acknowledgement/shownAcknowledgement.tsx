import type { BoxParts, ShownKind } from '../kind.ts';

/** One tap, with what one agrees to where there is something to agree to. */
function Acknowledge({ box, asking, waits, busy, asleep, press }: BoxParts) {
  if (!asking || waits) return null;
  return (
    <>
      {box.earlierMs === null ? null : (
        <p className="mb-2 text-warning">
          It has changed since you acknowledged it. Please read it again and acknowledge it as it is now.
        </p>
      )}
      {box.statement === '' ? null : (
        <p className="mb-3 border-l-4 border-primary pl-3" dir="auto">
          {box.statement}
        </p>
      )}
      <button
        type="button"
        className="btn btn-primary btn-lg w-full sm:w-auto"
        disabled={busy || asleep}
        onClick={() => void press({})}
      >
        {box.statement === '' ? 'Acknowledge' : 'I agree and acknowledge'}
      </button>
    </>
  );
}

export const ACKNOWLEDGEMENT: ShownKind = {
  heading: () => null,
  change: null,
  Answer: Acknowledge,
  Below: null,
};
