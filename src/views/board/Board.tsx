import { useState } from 'react';
import type { BoardPage, Post } from '../../core/boards/board.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { Corrected } from '../../ui/Corrected.tsx';
import { EventLine } from '../../ui/EventLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { PostForm } from './PostForm.tsx';

function PostEntry({
  post,
  zone,
  nowMs,
  mayPin,
  dated,
  onPin,
}: {
  post: Post;
  zone: string;
  nowMs: number;
  mayPin: boolean;
  dated: boolean;
  onPin: (pinned: boolean) => void;
}) {
  const awake = useAwake();
  return (
    <li id={`post-${post.id}`}>
      <time className="margin" dateTime={new Date(post.postedMs).toISOString()}>
        {dated ? (
          <span className="block text-sm">{dateWords(post.postedMs, zone, nowMs).replace(/^\w+ /, '')}</span>
        ) : null}
        {timeWords(post.postedMs, zone)}
      </time>
      <article aria-label={post.title}>
        <h3 className="text-lg" dir="auto">
          {post.title}
          {post.part ? (
            <span className="text-base font-normal text-quiet">
              {' '}
              {post.part.number} of {post.part.of}
            </span>
          ) : null}
        </h3>
        <p className="mb-2 text-sm text-quiet">
          {post.byline || post.authorName} <ImportanceWord importance={post.importance} />
        </p>
        {post.corrected ? <Corrected corrected={post.corrected} zone={zone} nowMs={nowMs} /> : null}
        <Matter html={post.html} />
        {post.event ? <EventLine event={post.event} zone={zone} nowMs={nowMs} /> : null}
        <MatterButton button={post.button} />
      </article>
      <div className="state text-right max-sm:text-left">
        {post.pinned ? <span className="block text-sm font-semibold text-success">Pinned</span> : null}
        {mayPin ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() => onPin(!post.pinned)}
            aria-label={`${post.pinned ? 'Unpin' : 'Pin'} ${post.title}`}
          >
            {post.pinned ? 'Unpin' : 'Pin'}
          </button>
        ) : null}
      </div>
    </li>
  );
}

/** How many sections a post here has at most; what is longer stands in parts. For those who moderate. */
function SectionLimit({
  boardId,
  limit,
  onError,
}: {
  boardId: number;
  limit: number;
  onError: (words: string) => void;
}) {
  const [value, setValue] = useState(String(limit));
  const awake = useAwake();
  const n = Math.trunc(Number(value));
  const save = async (): Promise<void> => {
    try {
      await ask('PUT', `/api/boards/${boardId}/limit`, { limit: n });
    } catch (problem) {
      onError(wordsOf(problem));
    }
  };
  return (
    <details className="mb-4">
      <summary className="min-h-9 cursor-pointer text-sm link-quiet">Settings</summary>
      <div className="flex flex-wrap items-end gap-3 py-2">
        <label className="flex flex-col gap-1 text-sm">
          Sections in one post, at most; longer announcements stand in parts
          <input
            type="number"
            className="input w-28"
            min={1}
            max={60}
            value={value}
            onChange={(event) => setValue(event.target.value)}
          />
        </label>
        <button
          type="button"
          className="btn btn-outline"
          disabled={!awake || n === limit || n < 1 || n > 60}
          onClick={() => void save()}
        >
          Save
        </button>
      </div>
    </details>
  );
}

/** A board: what is pinned, then the posts by day; and either a place to write or the reason why there is none. */
export default function Board({ first, zone, nowMs }: { first: BoardPage; zone: string; nowMs: number }) {
  const [page, setPage] = useState(first);
  const [older, setOlder] = useState<Post[]>([]);
  const [next, setNext] = useState(first.next);
  const [error, setError] = useState<string>();
  const { board } = page;

  const refresh = async (): Promise<void> => {
    try {
      setPage(await ask<BoardPage>('GET', `/api/boards/${board.id}`));
      setError(undefined);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  useLive([`board:${board.id}`], () => void refresh());
  const more = async (): Promise<void> => {
    if (!next) return;
    try {
      const found = await ask<BoardPage>(
        'GET',
        `/api/boards/${board.id}?postedMs=${next.postedMs}&id=${next.id}`,
      );
      setOlder((list) => [...list, ...found.posts]);
      setNext(found.next);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const setPinned = async (post: Post, pinned: boolean): Promise<void> => {
    try {
      await ask('PUT', `/api/posts/${post.id}/pin`, { pinned });
      setOlder((list) => list.map((each) => (each.id === post.id ? { ...each, pinned } : each)));
      await refresh();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };

  const days = new Map<string, Post[]>();
  const shown = new Set<number>();
  for (const post of [...page.posts, ...older]) {
    if (shown.has(post.id)) continue;
    shown.add(post.id);
    const day = dateWords(post.postedMs, zone, nowMs);
    days.set(day, [...(days.get(day) ?? []), post]);
  }
  const entry = (post: Post, dated: boolean) => (
    <PostEntry
      key={post.id}
      post={post}
      zone={zone}
      nowMs={nowMs}
      dated={dated}
      mayPin={page.pinning.outcome === 'allowed'}
      onPin={(pinned) => void setPinned(post, pinned)}
    />
  );

  return (
    <>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {page.pinned.length > 0 ? (
        <section aria-labelledby="pinned" className="mb-8 bg-base-100 px-4 pt-3">
          <h2 id="pinned" className="mb-2">
            Pinned
          </h2>
          <ul className="ledger">{page.pinned.map((post) => entry(post, true))}</ul>
        </section>
      ) : null}
      {page.posting.outcome === 'allowed' ? (
        <PostForm boardId={board.id} boardName={board.name} onPosted={() => void refresh()} />
      ) : (
        <p className="mb-6 border-l-4 border-info bg-base-100 px-4 py-3">{page.posting.reason}</p>
      )}
      {page.pinning.outcome === 'allowed' ? (
        <SectionLimit boardId={board.id} limit={page.sectionLimit} onError={setError} />
      ) : null}
      {days.size === 0 ? <p className="text-quiet">Nothing has been posted here yet.</p> : null}
      {[...days].map(([day, posts]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">{posts.map((post) => entry(post, false))}</ul>
        </section>
      ))}
      {next ? (
        <button type="button" className="btn btn-outline" onClick={() => void more()}>
          Earlier posts
        </button>
      ) : null}
    </>
  );
}
