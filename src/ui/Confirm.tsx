import { useState } from 'react';
import { wordsOf } from './api.ts';
import { Dialog } from './Dialog.tsx';
import { Notice } from './Notice.tsx';

/** Asks whether something is meant that cannot be undone. What fails is said, and it can be tried again. */
export function Confirm({
  title,
  detail,
  button,
  ready = true,
  onConfirm,
  onClose,
}: {
  title: string;
  detail: string;
  button: string;
  /** Whether it can be answered yet. */
  ready?: boolean;
  onConfirm: () => Promise<unknown>;
  onClose: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const confirm = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await onConfirm();
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
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || !ready}
            onClick={() => void confirm()}
          >
            {button}
          </button>
        </>
      }
    >
      <p>{detail}</p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </Dialog>
  );
}
