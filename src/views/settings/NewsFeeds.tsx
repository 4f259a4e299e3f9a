import { useState } from 'react';
import type { NewsFeed } from '../../core/inbox/newsFeed.ts';
import { request } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { CopyText } from '../../ui/CopyText.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';

/** The secret addresses from which a feed reader follows what comes to somebody, their boards and series. */
export function NewsFeeds() {
  const [feeds, setFeeds] = useState<NewsFeed[]>();
  const [form, setForm] = useState<'atom' | 'json'>('atom');
  const { busy, error, act } = useActs();
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="news-feeds">
        <h2 id="news-feeds" className="mb-2">
          Read it in a feed reader
        </h2>
        <p className="mb-3 text-quiet">
          Secret addresses from which a feed reader follows what comes to you, your boards and the series you
          read. Whoever has one reads what you may read. New ones end those before.
        </p>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {feeds === undefined ? null : (
          <div className="mb-3">
            <label className="mb-2 flex flex-wrap items-center gap-x-3">
              As
              <select
                className="select w-auto"
                value={form}
                onChange={(event) => setForm(event.target.value === 'json' ? 'json' : 'atom')}
              >
                <option value="atom">Atom, which every reader knows</option>
                <option value="json">JSON Feed</option>
              </select>
            </label>
            <ul className="flex flex-col gap-3">
              {feeds.map((feed) => (
                <li key={feed.atom}>
                  <span dir="auto">{feed.name}</span>
                  <CopyText text={feed[form]} label={`The address of ${feed.name}`} />
                </li>
              ))}
            </ul>
          </div>
        )}
        <button
          type="button"
          className="btn btn-outline"
          disabled={busy}
          onClick={act(async () => {
            setFeeds(await request('POST', '/api/me/news-feeds'));
            void done('They are shown this once. Keep them as you would a password.');
          })}
        >
          Make new addresses of feeds
        </button>
      </section>
    </Awake>
  );
}
