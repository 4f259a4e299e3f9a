import { useEffect, useState } from 'react';
import type { BoardPage, Post } from '../../core/boards/board.ts';
import { rulesWords } from '../../core/boards/switches.ts';
import { dateWords } from '../../core/timing/words.ts';
import { Sortable } from '../../ui/Sortable.tsx';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { PinDialog } from '../../ui/PinDialog.tsx';
import { PostBody } from '../../ui/PostBody.tsx';
import { kept } from '../../ui/kept.ts';
import { lazily } from '../../ui/lazily.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { PostEntry, PostInOrder } from './PostEntry.tsx';
import { Queue } from './Queue.tsx';

const PostForm = lazily(() => import('../../ui/PostForm.tsx').then((module) => module.PostForm));

const SEEN_AFTER_MS = 1_200;

/** How far a reader has seen a board goes to the server once they have had it in front of them for a moment. */
function useSeen(boardId: number, latestMs: number | undefined): void {
  useEffect(() => {
    if (latestMs === undefined) return undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const see = (): void => {
      clearTimeout(timer);
      if (document.hidden) return;
      timer = setTimeout(() => {
        // A mark that is lost is made at the next look.
        ask('PUT', `/api/boards/${boardId}/seen`, { toMs: latestMs }).catch(() => undefined);
      }, SEEN_AFTER_MS);
    };
    see();
    document.addEventListener('visibilitychange', see);
    return () => {
      clearTimeout(timer);
      document.removeEventListener('visibilitychange', see);
    };
  }, [boardId, latestMs]);
}

/** A board: what is pinned, then the posts by day; and either a place to write or the reason why there is none. */
export default function Board({ first, zone, nowMs }: { first: BoardPage; zone: string; nowMs: number }) {
  const awake = useAwake();
  const [page, setPage] = useState(first);
  const [older, setOlder] = useState<Post[]>([]);
  const [next, setNext] = useState(first.next);
  const [error, setError] = useState<string>();
  const [gone, setGone] = useState<string>();
  const [writing, setWriting] = useState(false);
  // What was begun and not sent is there again, as it was left.
  useEffect(() => {
    if (kept(`post:${first.board.id}`) !== undefined) queueMicrotask(() => setWriting(true));
  }, [first.board.id]);
  const [said, setSaid] = useState<string>();
  const [pinning, setPinning] = useState<Post>();
  // What was new when the reader came stays marked while they are here.
  const [fresh, setFresh] = useState<ReadonlySet<number>>(
    () => new Set([...first.posts, ...first.pinned].filter((post) => post.unread).map((post) => post.id)),
  );
  const { board } = page;
  useSeen(board.id, page.posts[0]?.postedMs);

  const failed = (problem: unknown): void => setError(wordsOf(problem));
  const refresh = async (): Promise<void> => {
    try {
      const now = await ask<BoardPage>('GET', `/api/boards/${board.id}`);
      setFresh(
        (before) => new Set([...before, ...now.posts.filter((post) => post.unread).map((post) => post.id)]),
      );
      setPage(now);
      setError(undefined);
    } catch (problem) {
      if (problem instanceof ApiProblem && problem.status === 404)
        setGone('This board is not yours to see any more.');
      else failed(problem);
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
      failed(problem);
    }
  };
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    try {
      await work();
      await refresh();
    } catch (problem) {
      failed(problem);
    }
  };
  const unpin = (post: Post): Promise<void> =>
    act(async () => {
      await ask('PUT', `/api/posts/${post.id}/pin`, { pinned: false });
      setOlder((list) => list.map((each) => (each.id === post.id ? { ...each, pinned: false } : each)));
    });
  const follow = (choice: 'follow' | 'mute' | null): Promise<void> =>
    act(() => ask('PUT', `/api/boards/${board.id}/follow`, { choice }));

  if (gone !== undefined)
    return (
      <>
        <h1>Boards</h1>
        <Notice tone="info">
          {gone} <a href="/boards">To the boards that are yours</a>
        </Notice>
      </>
    );

  const days = new Map<string, Post[]>();
  const shown = new Set<number>();
  for (const post of [...page.posts, ...older]) {
    if (shown.has(post.id)) continue;
    shown.add(post.id);
    const day = dateWords(post.postedMs, zone, nowMs);
    days.set(day, [...(days.get(day) ?? []), post]);
  }
  const mayPin = page.pinning.outcome === 'allowed';
  const entry = (post: Post, inPinned: boolean) => ({
    post,
    zone,
    nowMs,
    dated: inPinned,
    fresh: fresh.has(post.id),
    mayPin,
    mayReact: page.reacting,
    onPin: () => (post.pinned ? void unpin(post) : setPinning(post)),
    onError: failed,
  });

  return (
    <>
      <h1>{board.name}</h1>
      <p className="mt-2 max-w-3xl text-quiet">
        {board.about} It belongs to {board.whose}.{' '}
        {board.archived
          ? 'It is archived: it can be read, and nothing is added to it.'
          : rulesWords(page.switches, board.moderators)}
      </p>
      <p className="mt-1 mb-5 flex flex-wrap gap-x-4 text-sm">
        <a className="link-quiet py-2" href={`/boards/${board.id}/settings`}>
          {page.moderating ? 'Settings' : 'See the settings'}
        </a>
        <a className="link-quiet py-2" href={`/search?board=${board.id}`}>
          Search here
        </a>
        <button
          type="button"
          className="link-quiet py-2"
          disabled={!awake}
          aria-pressed={page.following === 'follow'}
          onClick={() => void follow(page.following === 'follow' ? null : 'follow')}
        >
          {page.following === 'follow' ? 'Followed: you are told of each post' : 'Follow'}
        </button>
        <button
          type="button"
          className="link-quiet py-2"
          disabled={!awake}
          aria-pressed={page.following === 'mute'}
          onClick={() => void follow(page.following === 'mute' ? null : 'mute')}
        >
          {page.following === 'mute' ? 'Muted: not in For me' : 'Mute'}
        </button>
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {page.moderating ? (
        <Queue
          posts={page.queue}
          reports={page.reports}
          zone={zone}
          nowMs={nowMs}
          onChanged={() => void refresh()}
        />
      ) : page.queue.length > 0 ? (
        <section aria-labelledby="own" className="mb-8 bg-base-100 px-4 pt-3 pb-4">
          <h2 id="own" className="mb-2">
            Yours, not up
          </h2>
          {page.queue.map((post) => (
            <article key={post.id} aria-label={post.title} className="border-t border-base-300 py-3">
              <PostBody post={post} zone={zone} nowMs={nowMs} level={3} linked />
            </article>
          ))}
        </section>
      ) : null}
      {page.pinned.length > 0 || page.links.length > 0 ? (
        <section aria-labelledby="pinned" className="mb-8 bg-base-100 px-4 pt-3">
          <h2 id="pinned" className="mb-2">
            Pinned
          </h2>
          {page.links.length > 0 ? (
            <ul className="mb-3 flex flex-wrap gap-x-5" aria-label="Key links and files">
              {page.links.map((link) => (
                <li key={link.id}>
                  <a
                    className="link-quiet flex min-h-11 items-center font-semibold text-primary"
                    href={link.url}
                    rel="noopener noreferrer"
                  >
                    {link.label}
                  </a>
                </li>
              ))}
            </ul>
          ) : null}
          <ul className="ledger">
            {mayPin && page.pinned.length > 1 ? (
              <Sortable
                ids={page.pinned.map((post) => post.id)}
                nameOf={(id) => page.pinned.find((post) => post.id === id)?.title ?? ''}
                onOrder={(ids) => {
                  setPage({
                    ...page,
                    pinned: ids.flatMap((id) => page.pinned.find((post) => post.id === id) ?? []),
                  });
                  void act(() => ask('PUT', `/api/boards/${board.id}/pins`, { ids }));
                }}
              >
                {page.pinned.map((post) => (
                  <PostInOrder key={post.id} {...entry(post, true)} />
                ))}
              </Sortable>
            ) : (
              page.pinned.map((post) => <PostEntry key={post.id} {...entry(post, true)} />)
            )}
          </ul>
        </section>
      ) : null}
      {page.posting.outcome === 'denied' && !writing ? (
        <p className="mb-6 border-l-4 border-info bg-base-100 px-4 py-3">{page.posting.reason}</p>
      ) : (
        <div className="mb-6 flex flex-wrap gap-3">
          {writing ? (
            <div className="w-full border border-base-300 bg-base-100 p-4">
              <PostForm
                boardId={board.id}
                boardName={board.name}
                held={page.posting.outcome === 'held' ? page.posting.reason : null}
                denied={page.posting.outcome === 'denied' ? page.posting.reason : null}
                warns={page.switches.warns}
                onCancel={() => setWriting(false)}
                onDone={(state) => {
                  setWriting(false);
                  setSaid(
                    state === 'held' ? 'It waits until a moderator has looked. You will be told.' : undefined,
                  );
                  void refresh();
                }}
              />
            </div>
          ) : (
            <button
              type="button"
              className="btn btn-primary"
              disabled={!awake}
              onClick={() => {
                setSaid(undefined);
                setWriting(true);
              }}
            >
              Write on {board.name}
            </button>
          )}
          {page.takesThanks && !writing ? (
            <a className="btn btn-outline" href={`/thanks/give?board=${board.id}`}>
              Thank somebody
            </a>
          ) : null}
        </div>
      )}
      {days.size === 0 ? <p className="text-quiet">Nothing has been posted here yet.</p> : null}
      {[...days].map(([day, posts]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">
            {posts.map((post) => (
              <PostEntry key={post.id} {...entry(post, false)} />
            ))}
          </ul>
        </section>
      ))}
      {next ? (
        <button type="button" className="btn btn-outline" onClick={() => void more()}>
          Earlier posts
        </button>
      ) : null}
      {pinning ? (
        <PinDialog
          postId={pinning.id}
          title={pinning.title}
          onDone={() => void refresh()}
          onClose={() => setPinning(undefined)}
        />
      ) : null}
    </>
  );
}
