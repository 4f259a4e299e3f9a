import { Notice } from '../../ui/Notice.tsx';
import type { Draft } from './draft.ts';

/** What becomes of what has gone, or recurs, while a draft that changes it is written. */
export function PurposeNotice({ purpose, onLeave }: { purpose: Draft['purpose']; onLeave: () => void }) {
  if (purpose === 'send') return null;
  return (
    <div className="mb-4">
      <Notice tone="info">
        {purpose === 'change'
          ? 'It goes on as it was until you confirm the change; then the next one goes out with this text and plan. '
          : 'Readers see the old text until you publish the correction; then they see this one, with a note. '}
        <button type="button" className="btn btn-outline btn-sm" onClick={onLeave}>
          Leave it as it was
        </button>
      </Notice>
    </div>
  );
}

/** A text that was not saved and that the browser has kept. */
export function KeptNotice({ onBringBack }: { onBringBack: () => void }) {
  return (
    <div className="mb-4">
      <Notice tone="info">
        A text of this draft that was not saved is kept in this browser. Brought back, it takes the place of
        the one here, which stays among the versions.{' '}
        <button type="button" className="btn btn-outline btn-sm" onClick={onBringBack}>
          Bring it back
        </button>
      </Notice>
    </div>
  );
}
