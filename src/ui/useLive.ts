import { useEffect, useRef } from 'react';
import { liveHub } from './liveHub.ts';

/** Calls back soon after something of these topics changed, and once more after the connection was lost and came back. */
export function useLive(topics: readonly string[], changed: () => void): void {
  const latest = useRef(changed);
  useEffect(() => {
    latest.current = changed;
  });
  const named = topics.join(' ');
  useEffect(() => {
    if (named === '') return undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const soon = (): void => {
      // Several changes at once are fetched once.
      timer ??= setTimeout(() => {
        timer = undefined;
        latest.current();
      }, 150);
    };
    const stop = liveHub().listen(named.split(' '), soon);
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [named]);
}
