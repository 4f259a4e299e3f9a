import { useState } from 'react';
import { DateTimeField } from '../../DateField.tsx';
import { request, wordsOf } from '../../api.ts';
import { Notice } from '../../Notice.tsx';

/** A place to add an option to a poll that has gone out, for its author and for readers where they may; a date as a date. */
export function AddOption({
  id,
  dates,
  zone,
  onAdded,
}: {
  id: number;
  dates: boolean;
  zone: string;
  onAdded: () => void;
}) {
  const [label, setLabel] = useState('');
  const [wall, setWall] = useState('');
  const [error, setError] = useState<string>();
  const add = async (): Promise<void> => {
    setError(undefined);
    try {
      await request('POST', `/api/asks/${id}/options`, {
        label,
        at: dates && wall !== '' ? { wall, zone } : null,
      });
      setLabel('');
      setWall('');
      onAdded();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  return (
    <form
      className="mt-4 flex flex-wrap items-end gap-2 border-t border-base-300 pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      {dates ? (
        <DateTimeField label="Another date, in your time" className="w-64" value={wall} onChange={setWall} />
      ) : (
        <label className="flex min-w-0 flex-1 flex-col gap-1">
          Another option
          <input
            type="text"
            className="input w-full"
            maxLength={160}
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
        </label>
      )}
      <button type="submit" className="btn btn-outline">
        Add it
      </button>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </form>
  );
}
