import { useEffect, useRef } from 'react';

/** Calls back soon after something of these topics changed, and once more after the connection was lost and came back. */
export function useLive(topics: readonly string[], changed: () => void): void {
  const latest = useRef(changed);
  useEffect(() => {
    latest.current = changed;
  });
  const address = `/api/live?${topics.map((topic) => `topic=${encodeURIComponent(topic)}`).join('&')}`;
  useEffect(() => {
    const source = new EventSource(address);
    let timer: ReturnType<typeof setTimeout> | undefined;
    let opened = false;
    const soon = (): void => {
      // Several changes at once are fetched once.
      timer ??= setTimeout(() => {
        timer = undefined;
        latest.current();
      }, 150);
    };
    source.addEventListener('changed', soon);
    source.addEventListener('open', () => {
      if (opened) soon();
      opened = true;
    });
    return () => {
      clearTimeout(timer);
      source.close();
    };
  }, [address]);
}
