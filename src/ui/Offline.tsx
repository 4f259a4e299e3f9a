import { useEffect, useSyncExternalStore } from 'react';
import { forgetKept } from './kept.ts';

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

/** Starts the worker that keeps what was read for later, and says when there is no connection. */
export default function Offline({ me }: { me: number }) {
  const online = useSyncExternalStore(
    watch,
    () => reached && navigator.onLine,
    () => true,
  );
  useEffect(() => {
    void (async () => {
      // What another person read on this device is not this one's to see.
      if (localStorage.getItem('kept-for') !== String(me)) {
        await forgetKept();
        localStorage.setItem('kept-for', String(me));
      }
      if (!('serviceWorker' in navigator)) return;
      await navigator.serviceWorker.register('/worker.js');
      const worker = (await navigator.serviceWorker.ready).active;
      // What this page is made of was fetched before the worker could see it.
      const made = performance.getEntriesByType('resource').map((entry) => entry.name);
      worker?.postMessage({ keep: made, page: location.href });
    })().catch(() => undefined);
  }, [me]);
  return online ? null : (
    <p role="status" className="bg-base-300 px-4 py-1 text-center text-sm">
      No connection. You see what was here the last time; answers are kept and sent later.
    </p>
  );
}
