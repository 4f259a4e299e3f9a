import { useEffect, useRef, useState } from 'react';
import type { FieldValues } from 'react-hook-form';
import { forget, keep, kept } from '../kept.ts';
import { useServerForm, type ServerForm } from './useServerForm.ts';

/** What is said where this browser does not keep what is written. */
export const UNKEPT =
  'This browser does not keep what you write here. Send it before you leave the page, or copy it first.';

export interface KeptForm<T extends FieldValues> extends ServerForm<T> {
  /** Whether this browser does not keep what is written. */
  unkept: boolean;
  /** Changes whenever the fields are filled otherwise than by whoever writes: by what was kept, or emptied. */
  turn: number;
  /** Forgets what was written, and begins again. */
  leave: () => void;
}

/**
 * A form whose fields outlive a reload, the end of a session and a lost connection: what is written is kept on this device from
 * the first key on, and forgotten once it was sent or left.
 *
 * @param options.keep what it is of, such as `reply:12`; null where it is not kept, as when something is changed that is there
 *   already
 */
export function useKeptForm<T extends FieldValues>(
  options: Parameters<typeof useServerForm<T>>[0] & { values: T; keep: string | null },
): KeptForm<T> {
  const { keep: name, values, send } = options;
  const [turn, setTurn] = useState(0);
  const [unkept, setUnkept] = useState(false);
  const taken = useRef(false);
  const form = useServerForm<T>({
    ...options,
    send: async (given) => {
      await send(given);
      taken.current = true;
      if (name !== null) forget(name);
    },
  });
  const { getValues, reset, subscribe } = form;
  useEffect(() => {
    const found = name === null ? undefined : kept(name);
    // What a version of before kept may be of another shape.
    if (found === null || typeof found !== 'object') return;
    // Read after the first drawing, which is the same as the server's.
    queueMicrotask(() => {
      reset({ ...getValues(), ...(found as Partial<T>) }, { keepDefaultValues: true });
      setTurn((now) => now + 1);
    });
  }, [name, getValues, reset]);
  useEffect(() => {
    if (name === null) return undefined;
    return subscribe({
      formState: { values: true, isDirty: true },
      callback: ({ values: written, isDirty }) => {
        if (taken.current) return;
        if (isDirty) setUnkept(!keep(name, written));
        else forget(name);
      },
    });
  }, [name, subscribe]);
  const beginAgain = (): void => {
    reset(values);
    taken.current = false;
    setTurn((now) => now + 1);
  };
  return {
    ...form,
    submit: async (event) => {
      await form.submit(event);
      if (taken.current) beginAgain();
    },
    unkept,
    turn,
    leave: () => {
      taken.current = true;
      if (name !== null) forget(name);
      beginAgain();
    },
  };
}
