import { useState } from 'react';
import { ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** Begins a new announcement and goes to it. */
export default function NewAnnouncement() {
  const awake = useAwake();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const begin = async (): Promise<void> => {
    setBusy(true);
    try {
      const { id } = await ask<{ id: number }>('POST', '/api/announcements');
      location.assign(`/write/${id}`);
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  return (
    <>
      <button
        type="button"
        className="btn btn-primary"
        disabled={busy || !awake}
        onClick={() => void begin()}
      >
        New announcement
      </button>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </>
  );
}
