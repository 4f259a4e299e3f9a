import { useState } from 'react';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';

/** What a correction says of itself, and whether those who had read the old text are told. */
export interface Correction {
  note: string;
  tell: boolean;
  /** Whether everybody who had acknowledged is asked again. */
  askAgain: boolean;
}

/** The last question before a correction is published. */
export function CorrectionDialog({
  asks,
  busy,
  error,
  onPublish,
  onClose,
}: {
  /** Whether it asks for an acknowledgement. */
  asks: boolean;
  busy: boolean;
  error: string | undefined;
  onPublish: (correction: Correction) => void;
  onClose: () => void;
}) {
  const [correction, setCorrection] = useState<Correction>({ note: '', tell: false, askAgain: false });
  return (
    <Dialog
      open
      title="Publish the correction?"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep writing
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || correction.note.trim() === ''}
            onClick={() => onPublish(correction)}
          >
            Publish the correction
          </button>
        </>
      }
    >
      <p className="mb-3">
        Whoever opens it from now on reads the new text, with a note that it was corrected.
      </p>
      <label className="mb-3 flex flex-col gap-1">
        What was corrected, in a few words
        <input
          className="input w-full"
          maxLength={300}
          value={correction.note}
          dir="auto"
          onChange={(event) => setCorrection({ ...correction, note: event.target.value })}
        />
      </label>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={correction.tell}
          onChange={(event) => setCorrection({ ...correction, tell: event.target.checked })}
        />
        Tell those who had read it
      </label>
      {asks ? (
        <label className="flex min-h-11 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={correction.askAgain}
            onChange={(event) => setCorrection({ ...correction, askAgain: event.target.checked })}
          />
          It has changed in substance: ask everybody to acknowledge it again
        </label>
      ) : null}
      {correction.askAgain ? (
        <p className="text-sm text-quiet">
          The answers to the text before are kept beside the new ones. All who are asked get a notice.
        </p>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </Dialog>
  );
}
