import { useState, type ReactNode } from 'react';
import type { NewPost, PostPage } from '../../core/boards/board.ts';
import type { ModeratorDecision } from '../../core/boards/decision.ts';
import { Moment } from '../../ui/Moment.tsx';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { PinDialog } from '../../ui/PinDialog.tsx';
import { PinWords, PostBody } from '../../ui/PostBody.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { Reactions } from '../../ui/Reactions.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { type Asked, ASKS } from './moderation.ts';
import { PassOn } from './PassOn.tsx';
import { PostActs, type PostDialog } from './PostActs.tsx';
import { Replies } from './Replies.tsx';
import { useServer, refetch } from '../../ui/server.ts';

const PostForm = lazily(() => import('../../ui/PostForm.tsx').then((module) => module.PostForm));

/** A post as it stands, read again when it changes. */
function usePost(first: PostPage, me: number) {
  const { id } = first.post;
  const path = `/api/posts/${id}` as const;
  const { data: page = first, error: unread } = useServer(path, {
    first,
    topics: [`post:${id}`, `board:${first.board.id}`, `person:${me}`],
  });
  const [problem, setProblem] = useState<unknown>();
  const [said, setSaid] = useState<string>();
  const status = unread instanceof ApiProblem ? unread.status : undefined;
  // Without a connection or a session the line above the page says so, and what was read stays.
  const told = problem ?? (status === 0 || status === 401 ? null : unread);
  const refresh = (): Promise<void> => refetch(path);
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setSaid(undefined);
    setProblem(undefined);
    try {
      await work();
      await refresh();
    } catch (failed) {
      setProblem(failed);
    }
  };
  return {
    page,
    error: told ? wordsOf(told) : undefined,
    said,
    setSaid,
    gone: status === 404,
    failed: setProblem,
    refresh,
    act,
  };
}

/** The text of a post, with the other parts of what it is part of, and what readers made of it. */
function Article({
  page,
  zone,
  nowMs,
  askBox,
  onError,
}: {
  page: PostPage;
  zone: string;
  nowMs: number;
  askBox: ReactNode;
  onError: (problem: unknown) => void;
}) {
  const { post } = page;
  return (
    <article aria-label={post.title} className="bg-base-100 p-5">
      <PostBody post={post} zone={zone} nowMs={nowMs} level={1} linked={false} box={askBox} />
      {page.parts.length > 0 ? (
        <p className="mt-3 flex flex-wrap gap-x-4">
          {page.parts.map((part) => (
            <a key={part.id} className="link-quiet py-1" href={`/posts/${part.id}`}>
              {part.number > (post.part?.number ?? 0) ? 'Goes on in' : 'Before it:'} part {part.number}
            </a>
          ))}
        </p>
      ) : null}
      <div className="mt-4">
        <Reactions
          subject="post"
          id={post.id}
          counts={post.reactions}
          may={page.reacting}
          onError={onError}
        />
      </div>
      <PinWords post={post} zone={zone} nowMs={nowMs} />
    </article>
  );
}

/** The dialog that is open about a post. */
function Dialogs({
  page: { post, passableTo },
  zone,
  dialog,
  refresh,
  onSaid,
  onClose,
}: {
  page: PostPage;
  zone: string;
  dialog: PostDialog | undefined;
  refresh: () => Promise<void>;
  onSaid: (words: string) => void;
  onClose: () => void;
}) {
  if (dialog === 'pin')
    return <PinDialog post={post} zone={zone} onDone={() => void refresh()} onClose={onClose} />;
  if (dialog === 'pass on')
    return <PassOn postId={post.id} boards={passableTo} onDone={onSaid} onClose={onClose} />;
  if (dialog === 'take back')
    return (
      <Confirm
        title={`Take back “${post.title}”?`}
        detail="It is gone for everybody, with what was said to it."
        button="Take it back"
        onClose={onClose}
        onConfirm={async () => {
          await request('DELETE', `/api/posts/${post.id}`);
          await refresh();
        }}
      />
    );
  return null;
}

/** A post with what was said to it. */
export default function PostView({
  first,
  zone,
  nowMs,
  me,
  shelves,
  askBox,
}: {
  first: PostPage;
  zone: string;
  nowMs: number;
  me: number;
  /** Whether they write the shelf. */
  shelves: boolean;
  /** What the post asks of the reader, an island of its own. */
  askBox?: ReactNode;
}) {
  const awake = useAwake();
  const { page, error, said, setSaid, gone, failed, refresh, act } = usePost(first, me);
  const [asked, setAsked] = useState<Asked>();
  const [dialog, setDialog] = useState<PostDialog>();
  const [editing, setEditing] = useState<NewPost>();
  const { post, board } = page;
  const decide = (decision: ModeratorDecision, note = ''): Promise<unknown> =>
    request('POST', `/api/posts/${post.id}/decide`, { decision, note });

  if (gone)
    return (
      <Notice tone="info">
        This post is not there any more. <a href={`/boards/${board.id}`}>To {board.name}</a>
      </Notice>
    );
  return (
    <>
      <p className="mb-2 text-sm">
        <a className="link-quiet" href={`/boards/${board.id}`}>
          {board.name}
        </a>{' '}
        <span className="text-quiet">
          ·{' '}
          <time dateTime={new Date(post.postedMs).toISOString()}>
            <Moment at={post.postedMs} zone={zone} nowMs={nowMs} />
          </time>
        </span>
      </p>
      {editing ? (
        <div className="border border-base-300 bg-base-100 p-4">
          <PostForm
            boardId={board.id}
            boardName={board.name}
            first={editing}
            postId={post.id}
            quoting={post.quote !== null}
            held={null}
            warns={false}
            onCancel={() => setEditing(undefined)}
            onDone={(state) => {
              setEditing(undefined);
              setSaid(state === 'held' ? undefined : 'Changed.');
              void refresh();
            }}
          />
        </div>
      ) : (
        <Article page={page} zone={zone} nowMs={nowMs} askBox={askBox} onError={failed} />
      )}
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <PostActs
        page={page}
        awake={awake}
        zone={zone}
        nowMs={nowMs}
        shelves={shelves}
        editing={editing !== undefined}
        act={(work) => void act(work)}
        decide={decide}
        onAsk={setAsked}
        onDialog={setDialog}
        onEdit={setEditing}
        onError={failed}
      />
      <Replies
        page={page}
        firstEarlier={first.earlier}
        zone={zone}
        nowMs={nowMs}
        awake={awake}
        onChanged={() => void refresh()}
        onError={failed}
      />
      <Dialogs
        page={page}
        zone={zone}
        dialog={dialog}
        refresh={refresh}
        onSaid={setSaid}
        onClose={() => setDialog(undefined)}
      />
      {asked ? (
        <SayWhy
          {...ASKS[asked]}
          onSay={async (note) => {
            if (asked === 'report') {
              await request('POST', `/api/posts/${post.id}/report`, { reason: note });
              setSaid('Those who moderate the board have been told.');
            } else {
              await decide(asked, note);
              await refresh();
            }
          }}
          onClose={() => setAsked(undefined)}
        />
      ) : null}
    </>
  );
}
