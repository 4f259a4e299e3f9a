import { useEffect, useEffectEvent, useState } from 'react';
import type { PostPage, Reply } from '../../core/boards/board.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { ReplyEntry } from './ReplyEntry.tsx';
import { ReplyForm } from './ReplyForm.tsx';

/** Replies to a post from further back than its page, one part after another; goes back by itself to one that a link names. */
function useEarlierReplies(postId: number, first: number | null, onError: (problem: unknown) => void) {
  const [earlier, setEarlier] = useState<Reply[]>([]);
  const [from, setFrom] = useState(first);
  const load = async (): Promise<void> => {
    if (from === null) return;
    try {
      const found = await request('GET', `/api/posts/${postId}/replies?before=${from}`);
      setEarlier((list) => [...found.replies, ...list]);
      setFrom(found.earlier);
    } catch (problem) {
      onError(problem);
    }
  };
  const goBack = useEffectEvent(() => void load());
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
    // Runs again with each part that is loaded.
  }, [from]);
  /** Lets go of one that was read further back, so that the page's own is shown; those the page has stay. */
  const letGo = (id: number, ofPage: readonly Reply[]): void =>
    setEarlier((list) => list.filter((each) => each.id !== id || ofPage.includes(each)));
  return { earlier, more: from !== null, load, letGo };
}

/** What was said to a post, and where one says more. */
export function Replies({
  page,
  firstEarlier,
  zone,
  nowMs,
  awake,
  onChanged,
  onError,
}: {
  page: PostPage;
  /** Where the replies go on further back than the page when it was first read. */
  firstEarlier: number | null;
  zone: string;
  nowMs: number;
  awake: boolean;
  onChanged: () => void;
  onError: (problem: unknown) => void;
}) {
  const { post, board, replying } = page;
  const { earlier, more, load, letGo } = useEarlierReplies(post.id, firstEarlier, onError);
  const shown = new Map([...earlier, ...page.replies].map((reply) => [reply.id, reply]));
  const replies = [...shown.values()].sort((a, b) => a.id - b.id);
  const may = {
    react: page.reacting,
    moderate: page.moderating,
    reply: replying.outcome === 'allowed',
  };
  return (
    <section id="replies" aria-labelledby="replies-heading" className="mt-6">
      <h2 id="replies-heading" className="mb-2">
        {post.replies === 0 ? 'No replies yet' : count(post.replies, 'reply', 'replies')}
      </h2>
      {more ? (
        <button type="button" className="btn btn-outline btn-sm mb-3" onClick={() => void load()}>
          Earlier replies
        </button>
      ) : null}
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
              letGo(reply.id, page.replies);
              onChanged();
            }}
            onError={onError}
          />
        ))}
      </ul>
      <div className="mt-4">
        {awake || replying.outcome !== 'allowed' ? (
          <ReplyForm
            postId={post.id}
            boardId={board.id}
            denied={replying.outcome === 'allowed' ? null : replying.reason}
            onDone={onChanged}
          />
        ) : null}
      </div>
    </section>
  );
}
