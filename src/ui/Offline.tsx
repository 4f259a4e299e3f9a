import { useEffect, useState, useSyncExternalStore } from 'react';
import { forgetPages, keep, kept } from './kept.ts';

/** Whether the server was reached the last time; a device that has a network may still not reach it. */
let reached = true;

const watch = (changed: () => void): (() => void) => {
  const note = (event: Event): void => {
    reached = event.type === 'reachable' || event.type === 'online';
    changed();
  };
  for (const kind of KINDS) addEventListener(kind, note);
  return () => {
    for (const kind of KINDS) removeEventListener(kind, note);
  };
};
const KINDS = ['online', 'offline', 'reachable', 'unreachable'] as const;

/** Starts the worker that keeps what was read for later, and says when there is no connection or the session is over. */
export default function Offline({ me }: { me: number }) {
  const online = useSyncExternalStore(
    watch,
    () => reached && navigator.onLine,
    () => true,
  );
  const [over, setOver] = useState(false);
  useEffect(() => {
    const end = (): void => setOver(true);
    addEventListener('session-over', end);
    return () => removeEventListener('session-over', end);
  }, []);
  useEffect(() => {
    void (async () => {
      // What another person read on this device is not this one's to see.
      if (kept('pages-of', 'device') !== me) {
        await forgetPages();
        keep('pages-of', me, 'device');
      }
      if (!('serviceWorker' in navigator)) return;
      await navigator.serviceWorker.register('/worker.js');
      const worker = (await navigator.serviceWorker.ready).active;
      // What this page is made of was fetched before the worker could see it.
      const made = performance.getEntriesByType('resource').map((entry) => entry.name);
      worker?.postMessage({ person: me, keep: made, page: location.href });
    })().catch(() => undefined);
  }, [me]);
  if (over)
    return (
      <p role="alert" className="bg-base-300 px-4 py-2 text-center">
        Your session has ended. What you wrote is kept on this device.{' '}
        <a className="link" href={`/sign-in?next=${encodeURIComponent(location.pathname + location.search)}`}>
          Sign in again
        </a>
      </p>
    );
  return online ? null : (
    <p role="status" className="bg-base-300 px-4 py-1 text-center text-sm">
      No connection. You see what was here the last time; answers and replies are kept and sent later.
    </p>
  );
}
