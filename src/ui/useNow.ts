import { useEffect, useState } from 'react';

/** The server's clock as it goes on, in milliseconds since 1970, renewed every so often. */
export function useNow(serverNowMs: number, everyMs: number): number {
  const [now, setNow] = useState(serverNowMs);
  const [ahead, setAhead] = useState<number | null>(null);
  useEffect(() => {
    setAhead(Date.now() - serverNowMs);
  }, [serverNowMs]);
  useEffect(() => {
    if (ahead === null) return undefined;
    const tick = (): void => setNow(Date.now() - ahead);
    const timer = setInterval(tick, everyMs);
    return () => clearInterval(timer);
  }, [ahead, everyMs]);
  return now;
}
