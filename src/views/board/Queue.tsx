import { useState } from 'react';
import type { Post, Report } from '../../core/boards/board.ts';
import type { ModeratorDecision } from '../../core/boards/decision.ts';
import { Moment } from '../../ui/Moment.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { PostBody } from '../../ui/PostBody.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** What waits for those who moderate a board: posts to look at, and what was reported. */
export function Queue({
  posts,
  reports,
  zone,
  nowMs,
  onChanged,
}: {
  posts: readonly Post[];
  reports: readonly Report[];
  zone: string;
  nowMs: number;
  onChanged: () => void;
}) {
  const awake = useAwake();
  const [asked, setAsked] = useState<{ post: Post; decision: 'return' | 'decline' }>();
  const [error, setError] = useState<string>();
  const decide = async (post: Post, decision: ModeratorDecision, note = ''): Promise<void> => {
    await request('POST', `/api/posts/${post.id}/decide`, { decision, note });
    onChanged();
  };
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(wordsOf(problem));
    }
    onChanged();
  };
  if (posts.length === 0 && reports.length === 0)
    return error === undefined ? null : <Notice tone="error">{error}</Notice>;
  return (
    <section aria-labelledby="queue" className="mb-8 border-l-4 border-warning bg-base-100 px-4 py-3">
      <h2 id="queue" className="mb-2">
        Waits for you
      </h2>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <ul className="flex flex-col gap-5">
        {posts.map((post) => (
          <li key={post.id}>
            <article aria-label={`Held: ${post.title}`}>
              <PostBody post={post} zone={zone} nowMs={nowMs} level={3} linked />
            </article>
            <div className="mt-3 flex flex-wrap gap-2">
              <button
                type="button"
                className="btn btn-primary btn-sm"
                disabled={!awake}
                onClick={() => void act(() => decide(post, 'approve'))}
              >
                Let it go up
              </button>
              <button
                type="button"
                className="btn btn-outline btn-sm"
                disabled={!awake}
                onClick={() => setAsked({ post, decision: 'return' })}
              >
                Give it back with a word
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                disabled={!awake}
                onClick={() => setAsked({ post, decision: 'decline' })}
              >
                Decline
              </button>
            </div>
          </li>
        ))}
        {reports.map((report) => (
          <li key={`r${report.id}`} className="border-t border-base-300 pt-3">
            <p>
              <strong>{report.reporter}</strong> reported{' '}
              <a
                className="link-quiet"
                href={`/posts/${report.postId}${report.subject === 'reply' ? `#reply-${report.subjectId}` : ''}`}
                dir="auto"
              >
                {report.subject === 'reply' ? `a reply to “${report.title}”` : `“${report.title}”`}
              </a>{' '}
              <Moment at={report.atMs} zone={zone} nowMs={nowMs} />: <q dir="auto">{report.reason}</q>
            </p>
            {report.excerpt === '' ? null : (
              <p className="text-quiet" dir="auto">
                {report.excerpt}
              </p>
            )}
            <div className="mt-2 flex flex-wrap gap-2">
              <a
                className="btn btn-outline btn-sm"
                href={`/posts/${report.postId}${report.subject === 'reply' ? `#reply-${report.subjectId}` : ''}`}
              >
                Open it and decide
              </a>
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                disabled={!awake}
                onClick={() => void act(() => request('POST', `/api/reports/${report.id}/settle`))}
              >
                Let it stand
              </button>
            </div>
          </li>
        ))}
      </ul>
      {asked ? (
        <SayWhy
          title={
            asked.decision === 'return' ? `Give “${asked.post.title}” back` : `Decline “${asked.post.title}”`
          }
          label={
            asked.decision === 'return'
              ? `What should ${asked.post.authorName} change?`
              : `A word to ${asked.post.authorName}, if you wish`
          }
          button={asked.decision === 'return' ? 'Give it back' : 'Decline it'}
          needed={asked.decision === 'return'}
          onSay={(note) => decide(asked.post, asked.decision, note)}
          onClose={() => setAsked(undefined)}
        />
      ) : null}
    </section>
  );
}
