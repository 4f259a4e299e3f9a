import { useState } from 'react';
import { ask } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';

/** The secret address from which a calendar program reads what is planned; for whoever is at the desk. */
export function CalendarFeed() {
  const [feed, setFeed] = useState<string>();
  const { busy, error, act } = useActs();
  return (
    <Awake>
      <section className="max-w-2xl" aria-labelledby="feed">
        <h2 id="feed" className="mb-2">
          What is planned, in your calendar
        </h2>
        <p className="mb-3 text-quiet">
          A secret address from which a calendar program reads what goes out, a month back and three weeks
          ahead. A new one ends the old.
        </p>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {feed === undefined ? null : (
          <p className="mb-3 border border-base-300 bg-base-100 p-3 font-mono text-sm break-all">{feed}</p>
        )}
        <button
          type="button"
          className="btn btn-outline"
          disabled={busy}
          onClick={act(async () => {
            setFeed((await ask<{ url: string }>('POST', '/api/me/calendar')).url);
            void done('It is shown this once. Keep it as you would a password.');
          })}
        >
          Make a new address
        </button>
      </section>
    </Awake>
  );
}
