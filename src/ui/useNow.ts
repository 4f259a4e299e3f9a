import { useEffect, useState } from 'react';

/**
 * The server's clock as it goes on, in milliseconds since 1970, renewed every so often. Without a connection the page may be one that
 * was kept long ago, and the device's own clock is what there is.
 */
export function useNow(serverNowMs: number, everyMs: number): number {
  const [now, setNow] = useState(serverNowMs);
  useEffect(() => {
    const ahead = navigator.onLine ? Date.now() - serverNowMs : 0;
    const tick = (): void => setNow(Date.now() - ahead);
    const timer = setInterval(tick, everyMs);
    return () => clearInterval(timer);
  }, [serverNowMs, everyMs]);
  return now;
}
