import { wrap, type Remote } from 'comlink';
import { useCallback, useEffect, useRef } from 'react';
import type { SheetReader } from './sheet.worker.ts';

/** What reads a list in a worker, begun when it is first needed. */
export function useListReader(): () => Remote<SheetReader> {
  const worker = useRef<{ worker: Worker; reader: Remote<SheetReader> }>(undefined);
  useEffect(() => () => worker.current?.worker.terminate(), []);
  return useCallback(() => {
    if (!worker.current) {
      const begun = new Worker(new URL('./sheet.worker.ts', import.meta.url), { type: 'module' });
      worker.current = { worker: begun, reader: wrap<SheetReader>(begun) };
    }
    return worker.current.reader;
  }, []);
}
