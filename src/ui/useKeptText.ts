import { useCallback, useEffect, useRef, useState } from 'react';
import { forget, keep, kept } from './kept.ts';

/**
 * The state of a form whose text outlives a reload, the end of a session and a lost connection: it is kept on this device from
 * the first key on, and forgotten once it was taken.
 *
 * @param name what it is of, such as `reply:12`; null where it is not kept, as when something is changed that is there already
 * @returns the text, how to change it, how to forget it once it was sent, and whether this browser does not keep it
 */
export function useKeptText<T>(
  name: string | null,
  empty: T,
): { text: T; set: (next: T) => void; sent: () => void; unkept: boolean; back: boolean } {
  const [text, setText] = useState(empty);
  const [unkept, setUnkept] = useState(false);
  const [back, setBack] = useState(false);
  const first = useRef(empty);
  useEffect(() => {
    const found = name === null ? undefined : kept(name);
    if (found === undefined) return;
    // Read after the first drawing, which is the same as the server's.
    queueMicrotask(() => {
      setText(found as T);
      setBack(true);
    });
  }, [name]);
  const set = useCallback(
    (next: T): void => {
      setText(next);
      if (name !== null) setUnkept(!keep(name, next));
    },
    [name],
  );
  const sent = useCallback((): void => {
    if (name !== null) forget(name);
    setText(first.current);
    setBack(false);
  }, [name]);
  return { text, set, sent, unkept, back };
}

/** What is said where this browser does not keep what is written. */
export const UNKEPT =
  'This browser does not keep what you write here. Send it before you leave the page, or copy it first.';
