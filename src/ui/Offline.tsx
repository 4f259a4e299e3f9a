import { useEffect, useSyncExternalStore } from 'react';
import { forgetKept } from './kept.ts';

const watch = (changed: () => void): (() => void) => {
  addEventListener('online', changed);
  addEventListener('offline', changed);
  return () => {
    removeEventListener('online', changed);
    removeEventListener('offline', changed);
  };
};

/** Starts the worker that keeps what was read for later, and says when there is no connection. */
export default function Offline({ me }: { me: number }) {
  const online = useSyncExternalStore(
    watch,
    () => navigator.onLine,
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
