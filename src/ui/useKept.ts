import { useCallback, useEffect, useState } from 'react';
import { keep, kept } from './kept.ts';

/**
 * A choice that this device keeps from one page to the next, such as which columns are shown.
 *
 * @param name what it is of
 * @param usual what it is until somebody chose, and where this browser keeps nothing
 */
export function useKept<T>(name: string, usual: T): [T, (next: T) => void] {
  const [value, setValue] = useState(usual);
  useEffect(() => {
    const found = kept(name);
    // Read after the first drawing, which is the same as the server's.
    if (found !== undefined) queueMicrotask(() => setValue(found as T));
  }, [name]);
  const set = useCallback(
    (next: T): void => {
      setValue(next);
      keep(name, next);
    },
    [name],
  );
  return [value, set];
}
