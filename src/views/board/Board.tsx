import { useEffect, useState } from 'react';
import type { BoardFollowing, BoardPage, Post } from '../../core/boards/board.ts';
import type { BoardView } from '../../core/boards/reading.ts';
import { rulesWords } from '../../core/boards/switches.ts';
import { isoDate } from '../../core/timing/words.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { kept } from '../../ui/kept.ts';
import { lazily } from '../../ui/lazily.tsx';
import { pathWith, refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Looking } from './Looking.tsx';
import { Pinned } from './Pinned.tsx';
import { byDay, Days, NoMore, OwnWaiting } from './boardParts.tsx';
import { useReading } from './useReading.ts';

const PostForm = lazily(() => import('../../ui/PostForm.tsx').then((module) => module.PostForm));
// For those who moderate.
const Queue = lazily(
  () => import('./Queue.tsx').then((module) => module.Queue),
  () => null,
);
const PinDialog = lazily(
  () => import('../../ui/PinDialog.tsx').then((module) => module.PinDialog),
  () => null,
);
const Members = lazily(
  () => import('./Members.tsx').then((module) => module.Members),
  () => null,
);

/** The ways a reader has to a board as a whole: its settings, its people, its search, and being told of it or not. */
function Ways({
  page,
  onFollow,
  onMembers,
}: {
  page: BoardPage;
  onFollow: (choice: BoardFollowing | null) => void;
  onMembers: () => void;
}) {
  const awake = useAwake();
  const { board, following } = page;
  return (
    <p className="mt-1 mb-4 flex flex-wrap gap-x-4 text-sm">
      <button type="button" className="link-quiet py-2" disabled={!awake} onClick={onMembers}>
        Members
      </button>
      <a className="link-quiet py-2" href={`/boards/${board.id}/files`}>
        Files
      </a>
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
        aria-pressed={following === 'follow'}
        onClick={() => onFollow(following === 'follow' ? null : 'follow')}
      >
        {following === 'follow' ? 'Followed: you are told of each post' : 'Follow'}
      </button>
      <button
        type="button"
        className="link-quiet py-2"
        disabled={!awake}
        aria-pressed={following === 'mute'}
        onClick={() => onFollow(following === 'mute' ? null : 'mute')}
      >
        {following === 'mute' ? 'Muted: not in For me' : 'Mute'}
      </button>
      <button
        type="button"
        className="link-quiet py-2"
        disabled={!awake}
        aria-pressed={following === 'hide'}
        onClick={() => onFollow(following === 'hide' ? null : 'hide')}
      >
        {following === 'hide' ? 'Out of sight: found by the search' : 'Put out of sight'}
      </button>
    </p>
  );
}

/** The place to write, or the reason why there is none. */
function Writing({ page, onDone }: { page: BoardPage; onDone: () => void }) {
  const awake = useAwake();
  const { board, posting } = page;
  const [writing, setWriting] = useState(false);
  const [said, setSaid] = useState<string>();
  // What was begun and not sent is there again, as it was left.
  useEffect(() => {
    if (kept(`post:${board.id}`) !== undefined) queueMicrotask(() => setWriting(true));
  }, [board.id]);
  if (posting.outcome === 'denied' && !writing)
    return <p className="mb-6 border-l-4 border-info bg-base-100 px-4 py-3">{posting.reason}</p>;
  return (
    <div className="mb-6 flex flex-wrap gap-3">
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {writing ? (
        <div className="w-full border border-base-300 bg-base-100 p-4">
          <PostForm
            boardId={board.id}
            boardName={board.name}
            held={posting.outcome === 'held' ? posting.reason : null}
            denied={posting.outcome === 'denied' ? posting.reason : null}
            warns={page.switches.warns}
            onCancel={() => setWriting(false)}
            onDone={(state) => {
              setWriting(false);
              setSaid(
                state === 'held' ? 'It waits until a moderator has looked. You will be told.' : undefined,
              );
              onDone();
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
  );
}

/** A board: a place to write, what is pinned, then the posts by day. */
export default function Board({
  first,
  view,
  zone,
  nowMs,
}: {
  first: BoardPage;
  view: BoardView;
  zone: string;
  nowMs: number;
}) {
  const { id } = first.board;
  const base = `/api/boards/${id}` as const;
  const path = pathWith(base, { ...view });
  const { data: page = first, error: failure } = useServer(path, {
    first,
    topics: [`board:${id}`],
  });
  const [older, setOlder] = useState<Post[]>([]);
  const [next, setNext] = useState(first.next);
  const [error, setError] = useState<string>();
  const [pinning, setPinning] = useState<Post>();
  const [members, setMembers] = useState(false);
  // What stood here or was new while the reader is here stays, and stays marked: reading does not move the page.
  const [seen, setSeen] = useState({ page, stood: first.posts, fresh: freshIn(first), readSince: 0 });
  if (seen.page !== page)
    setSeen({
      page,
      stood: view.only === 'unread' ? [...page.posts, ...seen.stood] : page.posts,
      fresh: new Set([...seen.fresh, ...freshIn(page)]),
      readSince: 0,
    });
  const failed = (problem: unknown): void => setError(wordsOf(problem));
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setError(undefined);
    try {
      await work();
      await refetch(base);
    } catch (problem) {
      failed(problem);
    }
  };
  const more = (): Promise<void> =>
    act(async () => {
      if (!next) return;
      const found = await request('GET', pathWith(base, { ...view, ...next }));
      setOlder((list) => [...list, ...found.posts]);
      setSeen((now) => ({ ...now, fresh: new Set([...now.fresh, ...freshIn(found)]) }));
      setNext(found.next);
    });
  const unpin = (post: Post): Promise<void> =>
    act(async () => {
      const path = `/api/posts/${post.id}/pin` as const;
      await request('PUT', path, { pinned: false });
      void done(`“${post.title}” is not pinned any more.`, () =>
        request('PUT', path, {
          pinned: true,
          until: post.pinUntilMs === null ? null : isoDate(post.pinUntilMs - 1, zone),
        }),
      );
      setOlder((list) => list.map((each) => (each.id === post.id ? { ...each, pinned: false } : each)));
    });
  const posts = [...seen.stood, ...older];
  useReading(id, posts.map((post) => post.id).join(), (n) =>
    setSeen((now) => ({ ...now, readSince: now.readSince + n })),
  );

  if (failure instanceof ApiProblem && failure.status === 404) return <NoMore />;
  const { board } = page;
  const mayPin = page.pinning.outcome === 'allowed';
  const latestMs = Math.max(0, ...page.posts.map((post) => post.postedMs));
  return (
    <>
      <h1>{board.name}</h1>
      <p className="mt-2 max-w-3xl text-quiet">
        {board.about} It belongs to {board.whose}.{' '}
        {board.archived
          ? 'It is archived: it can be read, and nothing is added to it.'
          : rulesWords(page.switches, board.moderators)}
      </p>
      <Ways
        page={page}
        onFollow={(choice) => void act(() => request('PUT', `${base}/follow`, { choice }))}
        onMembers={() => setMembers(true)}
      />
      {error === undefined && !failure ? null : <Notice tone="error">{error ?? wordsOf(failure)}</Notice>}
      {page.moderating ? (
        <Queue
          posts={page.queue}
          reports={page.reports}
          zone={zone}
          nowMs={nowMs}
          onChanged={() => void refetch(base)}
        />
      ) : (
        <OwnWaiting posts={page.queue} zone={zone} nowMs={nowMs} />
      )}
      <Writing page={page} onDone={() => void refetch(base)} />
      <Pinned
        pinned={page.pinned}
        links={page.links}
        zone={zone}
        nowMs={nowMs}
        mayPin={mayPin}
        onUntil={setPinning}
        onUnpin={(post) => void unpin(post)}
        onOrder={(ids) => void act(() => request('PUT', `${base}/pins`, { ids }))}
      />
      <Looking
        boardId={id}
        view={view}
        unread={Math.max(0, page.unread - seen.readSince)}
        here={posts.some((post) => seen.fresh.has(post.id))}
        onReadAll={() =>
          void act(async () => {
            await request('PUT', `${base}/seen`, { toMs: Math.max(latestMs, nowMs) });
            setSeen((now) => ({ ...now, fresh: new Set() }));
            void done(`All of ${board.name} is marked as read.`);
          })
        }
      />
      <Days
        days={byDay(posts, zone, nowMs)}
        view={view}
        zone={zone}
        nowMs={nowMs}
        fresh={seen.fresh}
        mayPin={mayPin}
        mayReact={page.reacting}
        onPin={(post) => (post.pinned ? void unpin(post) : setPinning(post))}
        onError={failed}
      />
      {next ? (
        <button type="button" className="btn btn-outline" onClick={() => void more()}>
          Earlier posts
        </button>
      ) : null}
      {pinning ? (
        <PinDialog
          post={pinning}
          zone={zone}
          onDone={() => void refetch(base)}
          onClose={() => setPinning(undefined)}
        />
      ) : null}
      {members ? <Members boardId={id} whose={board.whose} onClose={() => setMembers(false)} /> : null}
    </>
  );
}

const freshIn = (page: BoardPage): Set<number> =>
  new Set(page.posts.filter((post) => post.unread).map((post) => post.id));
