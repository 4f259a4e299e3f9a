import { useState } from 'react';
import { request } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';

const FEEDS = {
  planned: {
    id: 'feed',
    path: '/api/me/calendar',
    title: 'What is planned, in your calendar',
    detail:
      'A secret address from which a calendar program reads what goes out, a month back and three weeks ahead. A new one ends the old.',
    button: 'Make a new address',
  },
  sessions: {
    id: 'sessions-feed',
    path: '/api/me/sessions-feed',
    title: 'Your sessions, in your calendar',
    detail:
      'A secret address from which a calendar program reads the sessions that are for you, a month back and a year ahead, without those you do not come to. It follows what moves and what is called off. A new one ends the old.',
    button: 'Make a new address of my sessions',
  },
} as const;

/** The secret address from which a calendar program reads what is planned, for whoever is at the desk, or one’s sessions. */
export function CalendarFeed({ of }: { of: keyof typeof FEEDS }) {
  const { id, path, title, detail, button } = FEEDS[of];
  const [feed, setFeed] = useState<string>();
  const { busy, error, act } = useActs();
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby={id}>
        <h2 id={id} className="mb-2">
          {title}
        </h2>
        <p className="mb-3 text-quiet">{detail}</p>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {feed === undefined ? null : (
          <p className="mb-3 border border-base-300 bg-base-100 p-3 font-mono text-sm break-all">{feed}</p>
        )}
        <button
          type="button"
          className="btn btn-outline"
          disabled={busy}
          onClick={act(async () => {
            setFeed((await request('POST', path)).url);
            void done('It is shown this once. Keep it as you would a password.');
          })}
        >
          {button}
        </button>
      </section>
    </Awake>
  );
}
