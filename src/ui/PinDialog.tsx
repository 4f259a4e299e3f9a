import { useState } from 'react';
import type { Post } from '../core/boards/board.ts';
import { isoDate } from '../core/timing/words.ts';
import { DateField } from './DateField.tsx';
import { ApiProblem, request, wordsOf } from './api.ts';
import { Dialog } from './Dialog.tsx';
import { Notice } from './Notice.tsx';

/** Pins a post: until when, and which one it takes the place of where as many are pinned as may be. */
export function PinDialog({
  post,
  zone,
  onDone,
  onClose,
}: {
  /** Where it is pinned already, its end is what is changed. */
  post: Pick<Post, 'id' | 'title' | 'pinned' | 'pinUntilMs'>;
  zone: string;
  onDone: () => void;
  onClose: () => void;
}) {
  const [until, setUntil] = useState(() =>
    post.pinUntilMs === null ? '' : isoDate(post.pinUntilMs - 1, zone),
  );
  const [full, setFull] = useState<{ id: number; title: string }[]>([]);
  const [replaces, setReplaces] = useState<number | null>(null);
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const pin = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await request('PUT', `/api/posts/${post.id}/pin`, {
        pinned: true,
        until: until === '' ? null : until,
        replaces,
      });
      onDone();
      onClose();
    } catch (problem) {
      const pinned = problem instanceof ApiProblem ? problem.document.pinned : undefined;
      if (Array.isArray(pinned)) {
        setFull(pinned as { id: number; title: string }[]);
        setReplaces(null);
      }
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  const replaced = full.find((each) => each.id === replaces);
  return (
    <Dialog
      open
      title={post.pinned ? `Until when is “${post.title}” pinned?` : `Pin “${post.title}”`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || (full.length > 0 && replaces === null)}
            onClick={() => void pin()}
          >
            {replaced ? `Pin it in place of “${replaced.title}”` : post.pinned ? 'Save' : 'Pin it'}
          </button>
        </>
      }
    >
      <DateField
        label="Last day it is pinned; empty is until somebody unpins it"
        className="max-w-60"
        value={until}
        onChange={setUntil}
      />
      {full.length > 0 ? (
        <fieldset className="mt-4">
          <legend className="mb-1">It takes the place of</legend>
          {full.map((each) => (
            <label key={each.id} className="flex min-h-11 cursor-pointer items-center gap-2">
              <input
                type="radio"
                className="radio radio-primary"
                name="replaces"
                checked={replaces === each.id}
                onChange={() => setReplaces(each.id)}
              />
              <span dir="auto">{each.title}</span>
            </label>
          ))}
        </fieldset>
      ) : null}
      {error === undefined ? null : <Notice tone={full.length > 0 ? 'info' : 'error'}>{error}</Notice>}
    </Dialog>
  );
}
