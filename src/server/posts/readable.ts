import { byItselfWords, type SaidBy } from '../../core/automation/words.ts';
import { saidByThemselves } from '../automations/runStore.ts';
import type { LinkPreview, Post, Quote, Reply } from '../../core/boards/board.ts';
import { STALE_PIN_DAYS } from '../../core/boards/board.ts';
import { callsOf, linksIn, type Doc } from '../../core/content/document.ts';
import { eventSpan, shownEvent } from '../../core/content/event.ts';
import { documentHtml, fillFor } from '../../core/content/html.ts';
import { filePath } from '../../core/content/section.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { askedAmong } from '../asks/store.ts';
import type { Database } from '../database/connection.ts';
import { readerById } from '../people/store.ts';
import { previewsFor } from '../previews/service.ts';
import { reactionsTo } from '../reactions/store.ts';
import type { ReplyRow } from '../replies/store.ts';
import { thanksOfPosts } from '../thanks/store.ts';
import { pictureOf } from '../senders/picture.ts';
import { addressIn } from '../uploads/address.ts';
import { postsByIds, type PostRow } from './store.ts';
import { renderedPost } from './rendering.ts';
import { unreadAmong } from './readStore.ts';

const DAY_MS = 86_400_000;

/** The boards this person may see, by id, with their names; given so that it is asked once a page. */
type Seen = ReadonlyMap<number, string>;

/**
 * Posts as a person reads them: fields filled in, with what they and others did with each.
 *
 * @param level of the headings in them: one below that of the titles they stand under
 */
export async function readPosts(
  db: Database,
  actor: Actor,
  found: readonly PostRow[],
  seen: Seen = new Map(),
  level: 2 | 4 = 4,
): Promise<Post[]> {
  if (found.length === 0) return [];
  const links = found.map((post) => post.body.sections.flatMap((section) => linksIn(section.document)));
  const beside = await besidePosts(db, actor, found, links.flat());
  return found.map((post, i) => readPost(post, beside, { actor, seen, level, links: links[i] ?? [] }));
}

type Beside = Awaited<ReturnType<typeof besidePosts>>;

/** What is read beside some posts, for all of them together. */
async function besidePosts(db: Database, actor: Actor, found: readonly PostRow[], links: readonly string[]) {
  const ids = found.map((post) => post.id);
  // What readers are called is asked only where a text speaks of it, or may: one that is passed on is not read yet.
  const fills = found.some(
    ({ originId, body }) =>
      originId !== null || callsOf(body.sections.map((section) => section.document)).fields.length > 0,
  );
  const [reader, reactions, unread, origins, thanks, previews, asked, byThemselves] = await Promise.all([
    fills ? readerById(db, actor.id) : null,
    reactionsTo(db, actor.id, 'post', ids),
    unreadAmong(db, actor.id, ids),
    postsByIds(
      db,
      found.flatMap((post) => post.originId ?? []),
    ),
    thanksOfPosts(
      db,
      found.flatMap((post) => (post.thanked === 1 ? [post.id] : [])),
    ),
    previewsFor(db, actor, links),
    askedAmong(
      db,
      actor.id,
      found.flatMap((post) => post.occurrenceId ?? []),
    ),
    saidByThemselves(
      db,
      found.flatMap((post) => post.occurrenceId ?? []),
    ),
  ]);
  return { reader, reactions, unread, origins, thanks, previews, asked, byThemselves };
}

/** A post as a person reads it. */
function readPost(
  post: PostRow,
  { reader, reactions, unread, origins, thanks, previews, asked, byThemselves }: Beside,
  { actor, seen, level, links }: { actor: Actor; seen: Seen; level: 2 | 4; links: readonly string[] },
): Post {
  const { body } = post;
  const event = body.event && eventSpan(body.event);
  const fill = fillFor(reader && { ...reader, atMs: post.postedMs, eventMs: event?.startMs ?? null });
  const last = post.part >= post.parts;
  const given = thanks.get(post.id) ?? null;
  return {
    id: post.id,
    boardId: post.boardId,
    occurrenceId: post.occurrenceId,
    authorId: post.authorId,
    authorName: post.authorName,
    postedMs: post.postedMs,
    pinned: post.pinnedMs !== null,
    pinUntilMs: post.pinnedMs === null ? null : post.pinUntilMs,
    stale:
      post.pinnedMs !== null &&
      post.pinUntilMs === null &&
      post.nowMs - post.pinnedMs > STALE_PIN_DAYS * DAY_MS,
    title: post.title,
    byline: post.byline,
    senderPicture: pictureOf(post.senderPicture),
    importance: post.importance,
    ...renderedPost(post, post.state === 'up' ? 'post' : 'own post', level, fill),
    button: last ? body.button : null,
    event: last ? shownEvent(body.event) : null,
    byItself: wordsOfOrigin(post.occurrenceId === null ? cameBy(post) : byThemselves.get(post.occurrenceId)),
    asks: last && post.occurrenceId !== null && asked.has(post.occurrenceId) ? post.occurrenceId : null,
    part: post.parts > 1 ? { number: post.part, of: post.parts } : null,
    corrected: post.correctedMs === null ? null : { atMs: post.correctedMs, note: post.correction ?? '' },
    state: post.state,
    note: post.note === null ? null : { by: post.decidedBy ?? '', text: post.note },
    locked: post.locked === 1,
    editedMs: post.editedMs,
    quote: post.originId === null ? null : quoteOf(origins.get(post.originId), seen, reader, level),
    replies: post.replies,
    reactions: reactions.get(post.id) ?? {},
    unread: unread.has(post.id),
    thanks: given,
    previews: pick(previews, links),
    // What went out by a plan is changed where the plan is: its author corrects it there.
    own: post.authorId === actor.id && post.occurrenceId === null,
  };
}

const wordsOfOrigin = (origin: SaidBy | undefined): string | null => (origin ? byItselfWords(origin) : null);
const cameBy = ({ hookName, hookOwner }: PostRow): SaidBy | undefined =>
  hookName === null ? undefined : { kind: 'hook', name: hookName, owner: hookOwner ?? '' };

/** A post that another passes on, as it stands now, for a reader of the other. */
function quoteOf(
  origin: PostRow | undefined,
  seen: Seen,
  reader: Awaited<ReturnType<typeof readerById>>,
  level: 2 | 4,
): Quote {
  if (origin?.state !== 'up') return { state: 'gone' };
  const { body } = origin;
  const event = body.event && eventSpan(body.event);
  const fill = fillFor(reader && { ...reader, atMs: origin.postedMs, eventMs: event?.startMs ?? null });
  const board = seen.get(origin.boardId) ?? null;
  return {
    state: 'up',
    title: origin.title,
    byline: origin.byline,
    author: origin.authorName,
    postedMs: origin.postedMs,
    editedMs: origin.correctedMs ?? origin.editedMs,
    html: renderedPost(origin, 'post', level, fill).html,
    board,
    path: board === null ? null : `/posts/${origin.id}`,
  };
}

const pick = (previews: ReadonlyMap<string, LinkPreview>, hrefs: readonly string[]): LinkPreview[] =>
  hrefs.flatMap((href) => previews.get(href) ?? []);

/** Replies as a person reads them. Of what was hidden or deleted others see that it was there, and nothing of it. */
export async function readReplies(
  db: Database,
  actor: Actor,
  found: readonly ReplyRow[],
  moderating: boolean,
): Promise<Reply[]> {
  const links = found.map((reply) => linksIn(reply.document));
  const [reactions, previews] = await Promise.all([
    reactionsTo(
      db,
      actor.id,
      'reply',
      found.map((reply) => reply.id),
    ),
    previewsFor(db, actor, links.flat()),
  ]);
  return found.map((reply, i) => {
    const own = reply.authorId === actor.id;
    const shown = reply.state === 'up' || (reply.state === 'hidden' && (moderating || own));
    return {
      id: reply.id,
      authorId: reply.authorId,
      authorName: reply.authorName,
      writtenMs: reply.writtenMs,
      editedMs: reply.editedMs,
      html: shown ? replyHtml(reply.document) : '',
      files: shown
        ? reply.files.map((file) => ({
            ...file,
            href: addressIn(reply.state === 'up' ? 'reply' : 'own reply', reply.id)(filePath(file)),
          }))
        : [],
      state: reply.state,
      note:
        reply.note !== null && (moderating || own) ? { by: reply.decidedBy ?? '', text: reply.note } : null,
      reactions: reactions.get(reply.id) ?? {},
      previews: shown ? pick(previews, links[i] ?? []) : [],
      own,
    };
  });
}

const replyHtml = (doc: Doc): string => documentHtml(doc, fillFor(null), 4);
