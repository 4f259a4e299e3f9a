import { useState } from 'react';
import { exactWordsOf } from './api.ts';

/**
 * What a page's buttons do: one at a time, with what went wrong in words.
 *
 * @param onFailed called after something failed, to show how it stands
 */
export function useActs(onFailed?: () => unknown): {
  busy: boolean;
  error: string | undefined;
  act: (work: () => Promise<unknown>) => () => void;
} {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const run = async (work: () => Promise<unknown>): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(exactWordsOf(problem));
      await onFailed?.();
    } finally {
      setBusy(false);
    }
  };
  return { busy, error, act: (work) => () => void run(work) };
}
