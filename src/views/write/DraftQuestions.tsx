import { Moment } from '../../ui/Moment.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import type { Saving } from './useAutosave.ts';

/** Whether a draft is to be thrown away. */
export function DiscardQuestion({
  open,
  onDiscard,
  onClose,
}: {
  open: boolean;
  onDiscard: () => void;
  onClose: () => void;
}) {
  return (
    <Dialog
      open={open}
      title="Throw this draft away?"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep it
          </button>
          <button type="button" className="btn btn-error" onClick={onDiscard}>
            Throw it away
          </button>
        </>
      }
    >
      <p>The text and its plan are gone after this. Nobody has got it.</p>
    </Dialog>
  );
}

type Conflict = Extract<Saving, { state: 'conflict' }>['conflict'];

/** Which of two texts of a draft stands. It stays until it is answered. */
export function ConflictQuestion({
  conflict,
  zone,
  nowMs,
  onSeparate,
  onSaveOver,
}: {
  /** Null where there is none. */
  conflict: Conflict | null;
  zone: string;
  nowMs: number;
  onSeparate: () => void;
  onSaveOver: (conflict: Conflict) => void;
}) {
  return (
    <Dialog
      open={conflict !== null}
      title="Two texts of this draft"
      mustAnswer
      onClose={() => undefined}
      actions={
        conflict ? (
          <>
            <button type="button" className="btn btn-ghost" onClick={() => location.reload()}>
              Take theirs
            </button>
            <button type="button" className="btn btn-outline" onClick={onSeparate}>
              Keep mine as a separate draft
            </button>
            <button type="button" className="btn btn-primary" onClick={() => onSaveOver(conflict)}>
              Save mine over theirs
            </button>
          </>
        ) : null
      }
    >
      {conflict ? (
        <p>
          {conflict.savedBy} saved another text of this draft in another window, at{' '}
          <Moment at={conflict.savedMs} zone={zone} nowMs={nowMs} />. Yours is not saved yet. Neither is lost:
          a text that is saved over is kept among its versions.
        </p>
      ) : null}
    </Dialog>
  );
}
