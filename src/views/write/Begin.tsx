import { useState } from 'react';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** A button that begins a draft from something and goes to it. */
export default function Begin({
  from,
  words,
  main = false,
}: {
  /** The endpoint that begins it. */
  from: '/api/announcements' | `/api/announcements/${number}/copy` | `/api/series/${number}/next`;
  words: string;
  main?: boolean;
}) {
  const awake = useAwake();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const begin = async (): Promise<void> => {
    setBusy(true);
    try {
      const { id } = await request('POST', from);
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
        className={main ? 'btn btn-primary' : 'btn btn-outline btn-sm'}
        disabled={busy || !awake}
        onClick={() => void begin()}
      >
        {words}
      </button>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </>
  );
}
