import { useState } from 'react';
import { wordsOf } from './api.ts';
import { Dialog } from './Dialog.tsx';
import { Notice } from './Notice.tsx';

/** Asks for a word before something is done to what somebody wrote. What was written stays where the doing fails. */
export function SayWhy({
  title,
  detail,
  label,
  button,
  needed,
  most = 600,
  onSay,
  onClose,
}: {
  title: string;
  /** What follows from it, where that is not plain. */
  detail?: string;
  label: string;
  button: string;
  /** Whether it cannot be done without a word. */
  needed: boolean;
  /** How many characters at most. */
  most?: number;
  onSay: (note: string) => Promise<void>;
  onClose: () => void;
}) {
  const [note, setNote] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const say = async (): Promise<void> => {
    if (needed && note.trim().length < 3) {
      setError('Say why, in a few words.');
      return;
    }
    setBusy(true);
    setError(undefined);
    try {
      await onSay(note.trim());
      onClose();
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title={title}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-primary" disabled={busy} onClick={() => void say()}>
            {button}
          </button>
        </>
      }
    >
      {detail === undefined ? null : <p className="mb-4">{detail}</p>}
      <label className="flex flex-col gap-1">
        {label}
        <textarea
          className="textarea w-full"
          rows={3}
          maxLength={most}
          value={note}
          aria-invalid={error !== undefined}
          onChange={(event) => setNote(event.target.value)}
        />
      </label>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </Dialog>
  );
}
