import type { ReactNode } from 'react';
import type { LinkPreview, Post, Quote } from '../core/boards/board.ts';
import { dateWords, momentWords, nearWords } from '../core/timing/words.ts';
import { Corrected } from './Corrected.tsx';
import DateComes from './calendar/DateComes.tsx';
import { EventLine } from './EventLine.tsx';
import { ImportanceWord } from './Importance.tsx';
import { lazily } from './lazily.tsx';
import { Matter, MatterButton } from './Matter.tsx';
import { RibbonBadge } from './RibbonBadge.tsx';
import { SenderPicture } from './SenderPicture.tsx';

// Most posts ask for nothing.
const AskBox = lazily(
  () => import('./ask/AskBox.tsx').then((module) => module.default),
  () => null,
);

/** What links to pages of the application lead to. */
export function Previews({ previews }: { previews: readonly LinkPreview[] }) {
  return previews.map((preview) => (
    <a
      key={preview.path}
      href={preview.path}
      className="mt-2 block max-w-xl border-l-4 border-info bg-base-200 px-3 py-2 hover:bg-base-300"
    >
      <span className="block font-semibold" dir="auto">
        {preview.title}
      </span>
      <span className="block text-sm text-quiet" dir="auto">
        {preview.detail}
      </span>
    </a>
  ));
}

/** What a post passes on, as it stands now. */
function Quoted({ quote, zone, nowMs }: { quote: Quote; zone: string; nowMs: number }) {
  if (quote.state === 'gone')
    return (
      <p className="mt-2 border-l-4 border-base-300 pl-4 text-quiet">
        What was passed on here was taken back.
      </p>
    );
  return (
    <blockquote className="mt-2 max-w-2xl border-l-4 border-info pl-4">
      <p className="text-sm text-info">
        {quote.path === null ? (
          'From another board'
        ) : (
          <>
            From{' '}
            <a className="link-quiet" href={quote.path}>
              {quote.board}
            </a>
          </>
        )}
        {' · '}
        <span dir="auto">{quote.byline || quote.author}</span>
        {` · ${nearWords(quote.postedMs, zone, nowMs)}`}
        {quote.editedMs === null ? '' : ', changed since'}
      </p>
      <p className="font-semibold" dir="auto">
        {quote.title}
      </p>
      <Matter html={quote.html} />
    </blockquote>
  );
}

const STATE_WORDS: Partial<Record<Post['state'], string>> = {
  held: 'Waits until a moderator has looked',
  returned: 'Came back to be changed',
  declined: 'Declined',
  hidden: 'Hidden by a moderator',
};

/** The heading line and the matter of a post, wherever it is read. */
export function PostBody({
  post,
  zone,
  nowMs,
  level,
  linked,
  box,
}: {
  post: Post;
  zone: string;
  nowMs: number;
  level: 1 | 3;
  /** Whether its title leads to its own page. */
  linked: boolean;
  /** What it asks of the reader, where the page came with it; otherwise it is fetched. */
  box?: ReactNode;
}) {
  const Heading = level === 1 ? 'h1' : 'h3';
  const state = STATE_WORDS[post.state];
  return (
    <>
      <Heading className={level === 1 ? 'mb-1' : 'text-lg'} dir="auto">
        {linked ? (
          <a className="hover:underline" href={`/posts/${post.id}`}>
            {post.title}
          </a>
        ) : (
          post.title
        )}
        {post.part ? (
          <span className="text-base font-normal text-quiet">
            {' '}
            {post.part.number} of {post.part.of}
          </span>
        ) : null}
      </Heading>
      <p className="mb-2 text-sm text-quiet">
        {post.senderPicture === null ? null : <SenderPicture src={post.senderPicture} />}
        {post.byline || (
          <a className="link-quiet" href={`/person/${post.authorId}`} dir="auto">
            {post.authorName}
          </a>
        )}
        {post.byItself === null ? null : <span> · {linked ? 'by itself' : post.byItself}</span>}
        {post.editedMs === null ? null : (
          <span title={momentWords(post.editedMs, zone, nowMs)}> · edited</span>
        )}{' '}
        <ImportanceWord importance={post.importance} />
      </p>
      {state === undefined ? null : (
        <p className="mb-2 border-l-4 border-warning bg-base-200 px-3 py-1 text-sm">
          <strong className="text-warning">{state}.</strong>
          {post.note ? (
            <>
              {' '}
              {post.note.by}: <q dir="auto">{post.note.text}</q>
            </>
          ) : null}
        </p>
      )}
      {post.corrected ? <Corrected corrected={post.corrected} zone={zone} nowMs={nowMs} /> : null}
      {post.thanks ? (
        <div className="flex max-w-xl items-center gap-4 border border-base-300 bg-base-100 p-4">
          <RibbonBadge ribbon={post.thanks.ribbon} />
          <div>
            <p className="font-display text-lg" dir="auto">
              {post.thanks.sentence}
            </p>
            <p className="text-sm text-quiet">
              To{' '}
              {post.thanks.to.map((person, i) => (
                <span key={person.id}>
                  {i === 0 ? '' : i === (post.thanks?.to.length ?? 0) - 1 ? ' and ' : ', '}
                  <a className="link-quiet" href={`/person/${person.id}`} dir="auto">
                    {person.name}
                  </a>
                </span>
              ))}
              , from {post.thanks.from}
            </p>
          </div>
        </div>
      ) : (
        <Matter html={post.html} />
      )}
      {post.quote ? <Quoted quote={post.quote} zone={zone} nowMs={nowMs} /> : null}
      {post.event ? <EventLine event={post.event} zone={zone} nowMs={nowMs} /> : null}
      {post.event?.sessionDateId === undefined ? null : (
        <DateComes dateId={post.event.sessionDateId} startMs={post.event.startMs} nowMs={nowMs} />
      )}
      <MatterButton button={post.button} />
      {post.asks === null || post.state !== 'up'
        ? null
        : (box ?? <AskBox occurrenceId={post.asks} first={null} zone={zone} nowMs={nowMs} />)}
      <Previews previews={post.previews} />
    </>
  );
}

/** Since when or until when something is pinned. */
export function PinWords({
  post,
  zone,
  nowMs,
  here = false,
}: {
  post: Post;
  zone: string;
  nowMs: number;
  /** Whether it stands among what is pinned, where that need not be said. */
  here?: boolean;
}) {
  if (!post.pinned) return null;
  return (
    <>
      <span className="block text-sm font-semibold text-success">
        {here ? '' : 'Pinned'}
        {post.pinUntilMs === null
          ? ''
          : `${here ? 'until' : ' until'} ${dateWords(post.pinUntilMs - 1, zone, nowMs).replace(/^\w+ /, '')}`}
      </span>
      {post.stale ? (
        <span className="block text-sm text-warning">Pinned long ago. Does it still hold?</span>
      ) : null}
    </>
  );
}
