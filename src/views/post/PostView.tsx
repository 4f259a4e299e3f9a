import { useEffect, useEffectEvent, useState, type ReactNode } from 'react';
import type { NewPost, PostPage, Reply } from '../../core/boards/board.ts';
import type { ModeratorDecision } from '../../core/boards/decision.ts';
import { Moment } from '../../ui/Moment.tsx';
import { count } from '../../core/words.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { PinDialog } from '../../ui/PinDialog.tsx';
import { PinWords, PostBody } from '../../ui/PostBody.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { Reactions } from '../../ui/Reactions.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { EarlierTexts } from './EarlierTexts.tsx';
import { PassOn } from './PassOn.tsx';
import { ReplyEntry } from './ReplyEntry.tsx';
import { ReplyForm } from './ReplyForm.tsx';
import { type Asked, ASKS } from './moderation.ts';
import { Following } from './Following.tsx';

const PostForm = lazily(() => import('../../ui/PostForm.tsx').then((module) => module.PostForm));

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
  const [page, setPage] = useState(first);
  const [earlier, setEarlier] = useState<Reply[]>([]);
  const [from, setFrom] = useState(first.earlier);
  const [error, setError] = useState<string>();
  const [said, setSaid] = useState<string>();
  const [gone, setGone] = useState(false);
  const [asked, setAsked] = useState<Asked>();
  const [dialog, setDialog] = useState<'pin' | 'pass on' | 'take back'>();
  const [editing, setEditing] = useState<NewPost>();
  const { post, board } = page;
  const failed = (problem: unknown): void => setError(wordsOf(problem));
  const refresh = async (): Promise<void> => {
    try {
      setPage(await ask<PostPage>('GET', `/api/posts/${post.id}`));
      setError(undefined);
    } catch (problem) {
      if (problem instanceof ApiProblem && problem.status === 404) setGone(true);
      // Without a connection or a session the line above the page says so, and what was read stays.
      else if (!(problem instanceof ApiProblem && [0, 401].includes(problem.status))) failed(problem);
    }
  };
  useLive([`post:${post.id}`, `board:${board.id}`, `person:${me}`], () => void refresh());
  const loadEarlier = async (): Promise<boolean> => {
    if (from === null) return false;
    try {
      const found = await ask<{ replies: Reply[]; earlier: number | null }>(
        'GET',
        `/api/posts/${post.id}/replies?before=${from}`,
      );
      setEarlier((list) => [...found.replies, ...list]);
      setFrom(found.earlier);
      return found.replies.length > 0;
    } catch (problem) {
      failed(problem);
      return false;
    }
  };
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setSaid(undefined);
    try {
      await work();
      await refresh();
    } catch (problem) {
      failed(problem);
    }
  };
  const decide = (decision: ModeratorDecision, word = ''): Promise<unknown> =>
    ask('POST', `/api/posts/${post.id}/decide`, { decision, word });
  const goBack = useEffectEvent(() => void loadEarlier());
  // A link to a reply that is further back than what is shown: go back until it is there.
  useEffect(() => {
    const wanted = /^#reply-(\d+)$/.exec(location.hash)?.[1];
    if (wanted === undefined) return undefined;
    const element = document.getElementById(`reply-${wanted}`);
    if (element) element.scrollIntoView({ block: 'center' });
    else if (from !== null && from > Number(wanted)) {
      const timer = setTimeout(() => goBack(), 0);
      return () => clearTimeout(timer);
    }
    return undefined;
    // Runs again with each stretch that is loaded.
  }, [from]);

  if (gone)
    return (
      <Notice tone="info">
        This post is not there any more. <a href={`/boards/${board.id}`}>To {board.name}</a>
      </Notice>
    );
  const shown = new Map([...earlier, ...page.replies].map((reply) => [reply.id, reply]));
  const replies = [...shown.values()].sort((a, b) => a.id - b.id);
  const moderator = page.moderating;
  const may = {
    react: page.reacting,
    moderate: moderator,
    reply: page.replying.outcome === 'allowed',
  };
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
              onError={failed}
            />
          </div>
          <PinWords post={post} zone={zone} nowMs={nowMs} />
        </article>
      )}
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <div
        className="my-3 -ml-3 flex flex-wrap gap-x-1"
        role="group"
        aria-label="What can be done with this post"
      >
        {moderator && post.state === 'held' ? (
          <>
            <button
              type="button"
              className="btn btn-primary btn-sm mr-2"
              disabled={!awake}
              onClick={() => void act(() => decide('approve'))}
            >
              Let it go up
            </button>
            <button type="button" className="btn btn-outline btn-sm mr-2" onClick={() => setAsked('return')}>
              Give it back with a word
            </button>
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('decline')}>
              Decline
            </button>
          </>
        ) : null}
        {page.own && ['up', 'held', 'returned'].includes(post.state) && !editing && !post.thanks ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() => void ask<NewPost>('GET', `/api/posts/${post.id}/draft`).then(setEditing, failed)}
          >
            Change
          </button>
        ) : null}
        {page.own ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() => setDialog('take back')}
          >
            Take back
          </button>
        ) : null}
        {page.pinning ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() =>
              post.pinned
                ? void act(() => ask('PUT', `/api/posts/${post.id}/pin`, { pinned: false }))
                : setDialog('pin')
            }
          >
            {post.pinned ? 'Unpin' : 'Pin'}
          </button>
        ) : null}
        {page.passableTo.length > 0 ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={() => setDialog('pass on')}
          >
            Pass on
          </button>
        ) : null}
        {shelves ? (
          <a className="btn btn-ghost btn-sm" href={`/shelf/desk?post=${post.id}`}>
            Put on the shelf
          </a>
        ) : null}
        <Following
          following={page.following}
          awake={awake}
          onChoose={(choice) => void act(() => ask('PUT', `/api/posts/${post.id}/follow`, { choice }))}
        />
        {!post.own && !moderator && post.state === 'up' ? (
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('report')}>
            Report
          </button>
        ) : null}
        {moderator && post.state === 'up' ? (
          <>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              onClick={() => void act(() => decide(post.locked ? 'unlock' : 'lock'))}
            >
              {post.locked ? 'Take replies again' : 'Close replies'}
            </button>
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('hide')}>
              Hide
            </button>
          </>
        ) : null}
        {moderator && post.state === 'hidden' ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => void act(() => decide('show'))}
          >
            Show again
          </button>
        ) : null}
        {moderator && !post.own ? (
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('delete')}>
            Delete
          </button>
        ) : null}
        {post.editedMs !== null && (moderator || post.own) ? (
          <EarlierTexts path={`/api/posts/${post.id}/texts`} zone={zone} nowMs={nowMs} />
        ) : null}
      </div>

      <section id="replies" aria-labelledby="replies-heading" className="mt-6">
        <h2 id="replies-heading" className="mb-2">
          {post.replies === 0 ? 'No replies yet' : count(post.replies, 'reply', 'replies')}
        </h2>
        {from === null ? null : (
          <button type="button" className="btn btn-outline btn-sm mb-3" onClick={() => void loadEarlier()}>
            Earlier replies
          </button>
        )}
        <ul className="ledger">
          {replies.map((reply) => (
            <ReplyEntry
              key={reply.id}
              reply={reply}
              postId={post.id}
              boardId={board.id}
              zone={zone}
              nowMs={nowMs}
              may={may}
              onChanged={() => {
                setEarlier((list) =>
                  list.filter((each) => each.id !== reply.id || page.replies.includes(each)),
                );
                void refresh();
              }}
              onError={failed}
            />
          ))}
        </ul>
        <div className="mt-4">
          {awake || page.replying.outcome !== 'allowed' ? (
            <ReplyForm
              postId={post.id}
              boardId={board.id}
              denied={page.replying.outcome === 'allowed' ? null : page.replying.reason}
              onDone={() => void refresh()}
            />
          ) : null}
        </div>
      </section>

      {dialog === 'pin' ? (
        <PinDialog
          post={post}
          zone={zone}
          onDone={() => void refresh()}
          onClose={() => setDialog(undefined)}
        />
      ) : null}
      {dialog === 'take back' ? (
        <Confirm
          title={`Take back “${post.title}”?`}
          detail="It is gone for everybody, with what was said to it."
          button="Take it back"
          onClose={() => setDialog(undefined)}
          onConfirm={async () => {
            await ask('DELETE', `/api/posts/${post.id}`);
            await refresh();
          }}
        />
      ) : null}
      {dialog === 'pass on' ? (
        <PassOn
          postId={post.id}
          boards={page.passableTo}
          onDone={setSaid}
          onClose={() => setDialog(undefined)}
        />
      ) : null}
      {asked ? (
        <SayWhy
          {...ASKS[asked]}
          onSay={async (word) => {
            if (asked === 'report') {
              await ask('POST', `/api/posts/${post.id}/report`, { reason: word });
              setSaid('Those who moderate the board have been told.');
            } else {
              await decide(asked, word);
              await refresh();
            }
          }}
          onClose={() => setAsked(undefined)}
        />
      ) : null}
    </>
  );
}
