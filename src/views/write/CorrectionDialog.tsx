import { useState } from 'react';
import { people } from '../../core/words.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';

/** What a correction says of itself, and who is told. */
export interface Correction {
  note: string;
  tell: 'everybody' | 'opened' | 'nobody';
  /** Whether everybody who had acknowledged is asked again. */
  askAgain: boolean;
}

/** The last question before a correction is published. */
export function CorrectionDialog({
  draftId,
  asks,
  mayAskAgain,
  busy,
  error,
  onPublish,
  onClose,
}: {
  draftId: number;
  /** Whether it asks for anything, and whether that is an acknowledgement. */
  asks: boolean;
  mayAskAgain: boolean;
  busy: boolean;
  error: string | undefined;
  onPublish: (correction: Correction) => void;
  onClose: () => void;
}) {
  const [correction, setCorrection] = useState<Correction>({ note: '', tell: 'opened', askAgain: false });
  const { data: reach } = useServer(`/api/announcements/${draftId}/correct`);
  const told = { everybody: reach?.everybody, opened: reach?.opened, nobody: undefined }[correction.tell];
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
            {told === undefined || told === 0
              ? 'Publish the correction'
              : `Publish it and tell ${people(told)}`}
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
      <fieldset>
        <legend>Who gets the new text, with what was corrected above it?</legend>
        {(
          [
            ['everybody', 'Everybody who got it', reach?.everybody],
            ['opened', asks ? 'Those who opened or answered it' : 'Those who opened it', reach?.opened],
            ['nobody', 'Nobody', undefined],
          ] as const
        ).map(([value, words, n]) => (
          <label key={value} className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="radio"
              name="tell"
              className="radio radio-primary"
              checked={correction.tell === value}
              onChange={() => setCorrection({ ...correction, tell: value })}
            />
            {words} {n === undefined ? null : <span className="figure text-quiet">{people(n)}</span>}
          </label>
        ))}
      </fieldset>
      {mayAskAgain ? (
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
