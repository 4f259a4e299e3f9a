import { Link2 } from 'lucide-react';
import { useEffect, useId, useRef, useState } from 'react';
import { request, wordsOf } from './api.ts';
import { Notice } from './Notice.tsx';

interface Kept {
  key: string;
  width: number;
  height: number;
}

/** Takes an image from an address: it is fetched once and kept, as if it had been chosen. Not a form: it may stand in one. */
export function ImageFromAddress({ onKept }: { onKept: (image: Kept) => void }) {
  const [open, setOpen] = useState(false);
  const [address, setAddress] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const wrong = useId();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (open) field.current?.focus();
  }, [open]);
  const take = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      onKept(await request('POST', '/api/uploads/address', { address }));
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  if (!open)
    return (
      <button type="button" className="btn btn-ghost btn-sm" onClick={() => setOpen(true)}>
        <Link2 size={16} aria-hidden /> An image by its address
      </button>
    );
  return (
    <div className="flex w-full flex-wrap items-end gap-2">
      <label className="flex min-w-56 grow flex-col gap-1 text-sm">
        Address of the image
        <input
          type="url"
          className="input w-full"
          ref={field}
          maxLength={2000}
          placeholder="https://"
          value={address}
          aria-invalid={error !== undefined}
          aria-describedby={error === undefined ? undefined : wrong}
          onChange={(event) => setAddress(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter') return;
            event.preventDefault();
            if (address.trim() !== '' && !busy) void take();
          }}
        />
      </label>
      <button
        type="button"
        className="btn btn-outline"
        disabled={busy || address.trim() === ''}
        onClick={() => void take()}
      >
        {busy ? 'Fetching …' : 'Take it'}
      </button>
      <button type="button" className="btn btn-ghost" onClick={() => setOpen(false)}>
        Leave it
      </button>
      {error === undefined ? null : (
        <div id={wrong} className="w-full">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
    </div>
  );
}
