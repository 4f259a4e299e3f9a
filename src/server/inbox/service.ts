import type { ForMe, ForMeEnd, ForMeLine, InboxItem, Reading } from '../../core/inbox/inbox.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { eventSpan, shownEvent } from '../../core/content/event.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { reasonsKnown, whyWords } from '../../core/audience/words.ts';
import { readPlan } from '../../core/stored.ts';
import { byItselfWords } from '../../core/automation/words.ts';
import { versionById } from '../announcements/versionStore.ts';
import { saidByThemselves } from '../automations/runStore.ts';
import { factsOf } from '../audience/store.ts';
import { boardsSeenBy } from '../boards/service.ts';
import { markSeen } from '../boards/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { organisation, readerById } from '../people/store.ts';
import { bannerOf, seriesById } from '../series/store.ts';
import { imagePath } from '../../core/content/section.ts';
import { addressIn } from '../uploads/address.ts';
import { markNoticesRead, noticesPage, unreadNotices } from '../notices/store.ts';
import { postsForReader } from '../posts/store.ts';
import { notFound } from '../problem.ts';
import { reactionsTo } from '../reactions/store.ts';
import { pictureOf } from '../senders/picture.ts';
import {
  hourPassed,
  inboxItem,
  inboxPage,
  markAllRead,
  markRead,
  markWelcomed,
  unanswered,
  waysOfReading,
  type InboxRow,
} from './store.ts';

const PAGE = 30;
const SHOWN_NOTICES = 5;

const item = (row: InboxRow): InboxItem => ({
  occurrenceId: row.occurrenceId,
  wentMs: row.wentMs,
  title: row.title,
  byline: row.byline,
  importance: row.importance,
  excerpt: row.excerpt,
  asked: row.asked === 1,
  asks: row.asks,
  agrees: row.agrees === 1,
  answeredMs: row.answeredMs,
  deadlineMs: row.deadlineMs,
});

const inboxLine = (row: Awaited<ReturnType<typeof inboxPage>>[number]): ForMeLine => ({
  key: `a${row.occurrenceId}`,
  path: `/for-me/${row.occurrenceId}`,
  occurrenceId: row.occurrenceId,
  wentMs: row.wentMs,
  title: row.title,
  by: row.byline,
  board: null,
  importance: row.importance,
  excerpt: row.excerpt,
  asked: row.asked === 1,
  asks: row.asks,
  answeredMs: row.answeredMs,
  read: row.readMs !== null || row.own === 1,
});

const postLine = (post: Awaited<ReturnType<typeof postsForReader>>[number], board: string): ForMeLine => ({
  key: `p${post.id}`,
  path: `/posts/${post.id}`,
  occurrenceId: null,
  wentMs: post.postedMs,
  title: post.title,
  by: post.byline || post.authorName,
  board,
  importance: post.importance,
  excerpt: post.excerpt,
  asked: false,
  asks: 'nothing',
  answeredMs: null,
  read: !post.unread,
});

/**
 * What is for a person: first what still needs their answer, then by date, the latest first, what came to their inbox and
 * what stands on their boards. An announcement on three boards, or on a board and in the inbox, is one line.
 */
export async function forMe(db: Database, actor: Actor, before: ForMeEnd | null): Promise<ForMe> {
  const [seen, reading, came] = await Promise.all([
    boardsSeenBy(db, actor),
    waysOfReading(db, actor.id),
    inboxPage(
      db,
      actor.id,
      before?.inbox ? { wentMs: before.inbox.ms, id: before.inbox.id } : null,
      PAGE + 1,
    ),
  ]);
  const boards = seen.filter((board) => !board.archived && board.rules.belongs);
  const names = new Map(
    boards.filter((board) => !reading.muted.has(board.id)).map((board) => [board.id, board.name]),
  );
  const [waiting, stands, notices] = await Promise.all([
    before ? [] : unanswered(db, actor.id, 50),
    postsForReader(
      db,
      actor.id,
      [...names.keys()],
      {
        before: before?.posts ? { postedMs: before.posts.ms, id: before.posts.id } : null,
        // Where the inbox fills the page, what stands on boards from before its end is for a later page.
        sinceMs: came.length > PAGE ? (came.at(-1)?.wentMs ?? null) : null,
      },
      PAGE + 1,
    ),
    before ? [] : noticesPage(db, actor.id, null, SHOWN_NOTICES, 'unread'),
  ]);
  const lines: { line: ForMeLine; from: 'inbox' | 'posts'; id: number }[] = [
    ...came.map((row) => ({ from: 'inbox' as const, id: row.occurrenceId, line: inboxLine(row) })),
    ...stands.map((post) => ({
      from: 'posts' as const,
      id: post.id,
      line: postLine(post, names.get(post.boardId) ?? ''),
    })),
  ].sort((a, b) => b.line.wentMs - a.line.wentMs || (a.line.key < b.line.key ? 1 : -1));
  const page = lines.slice(0, PAGE);
  const end = (from: 'inbox' | 'posts'): ForMeEnd['inbox'] => {
    const last = page.filter((each) => each.from === from).at(-1);
    if (last) return { ms: last.line.wentMs, id: last.id };
    // Nothing of this came, so the next page of it begins where this page ends.
    const end = page.at(-1);
    return end ? { ms: end.line.wentMs, id: Number.MAX_SAFE_INTEGER } : (before?.[from] ?? null);
  };
  return {
    unanswered: waiting.map(item),
    lines: page.map((each) => each.line),
    notices: notices.map((notice) => ({ ...notice, read: notice.read === 1 })),
    // Who has few of them sees them all.
    unreadNotices: notices.length < SHOWN_NOTICES ? notices.length : await unreadNotices(db, actor.id),
    welcome:
      reading.fresh && !before
        ? { boards: boards.map(({ id, name, about }) => ({ id, name, about })) }
        : null,
    next: lines.length > PAGE ? { inbox: end('inbox'), posts: end('posts') } : null,
  };
}

/** Notes everything that is for a person as read: what came to their inbox, and what stands on their boards. */
export async function readAll(db: Database, actor: Actor): Promise<void> {
  const boards = (await boardsSeenBy(db, actor)).filter((board) => !board.archived && board.rules.belongs);
  const nowMs = await databaseNow(db);
  await transact(db, async (trx) => {
    await markAllRead(trx, actor.id);
    for (const board of boards)
      if (await markSeen(trx, actor.id, board.id, nowMs))
        await emit(trx, 'board.seen', { board: board.id, person: actor.id });
  });
}

/** Notes that somebody has read, on their first day, what is here. */
export async function welcomed(db: Database, personId: number): Promise<void> {
  await markWelcomed(db, personId);
}

/** One thing that came to a person, in full; a 404 problem where it did not come to them. Notes that it was read. */
export async function readItem(db: Database, personId: number, occurrenceId: number): Promise<Reading> {
  const row = await inboxItem(db, personId, occurrenceId);
  const version = row && (await versionById(db, row.versionId));
  if (!row || !version) throw notFound('announcement');
  const [reader, why, byThemselves, banner, series, reactions] = await Promise.all([
    readerById(db, personId),
    whyThis(db, personId, row.plan),
    saidByThemselves(db, [occurrenceId]),
    version.issue ? bannerOf(db, version.issue.seriesId) : null,
    version.issue ? seriesById(db, version.issue.seriesId) : undefined,
    reactionsTo(db, personId, 'occurrence', [occurrenceId]),
    markRead(db, occurrenceId, personId),
    markNoticesRead(db, personId, `/for-me/${occurrenceId}`),
  ]);
  const byItself = byThemselves.get(occurrenceId);
  const passed = reader ? await hourPassed(db, occurrenceId, reader.zone) : false;
  const eventMs = version.event ? eventSpan(version.event).startMs : null;
  const fill = fillFor(reader && { ...reader, atMs: row.wentMs, eventMs });
  return {
    ...item(row),
    senderPicture: pictureOf(row.senderPicture),
    chases: row.chases,
    withdrawn: row.withdrawnMs === null ? null : { atMs: row.withdrawnMs, note: row.withdrawnNote ?? '' },
    html:
      row.withdrawnMs === null
        ? sectionsHtml(version.sections, fill, {
            kind: 'page',
            level: 2,
            address: addressIn('sent', occurrenceId),
          })
        : '',
    banner:
      banner && version.issue
        ? { src: addressIn('series', version.issue.seriesId)(imagePath(banner, 'page')), alt: banner.alt }
        : null,
    button: row.withdrawnMs === null ? version.button : null,
    event: row.withdrawnMs === null ? shownEvent(version.event) : null,
    why: [
      why,
      passed ? 'The hour it was meant for had passed where you are, so it came later.' : '',
      byItself && byItselfWords(byItself),
    ]
      .filter(Boolean)
      .join(' '),
    corrected: row.correctedMs === null ? null : { atMs: row.correctedMs, note: row.correction ?? '' },
    reactions: reactions.get(occurrenceId) ?? {},
    series: series ? { id: series.id, name: series.name } : null,
  };
}

/** Why something came to somebody, in words; without its reasons where they cannot be told any more. */
async function whyThis(db: Database, personId: number, plan: string): Promise<string> {
  const now = await audienceContext(db);
  let audience: Audience | null = null;
  try {
    ({ audience } = readPlan(plan));
  } catch {
    // What came can be read even where the plan it came by cannot.
  }
  const [facts, names, home] = await Promise.all([
    audience ? factsOf(db, [personId], audience, now) : null,
    audienceNames(db, now, [audience]),
    organisation(db),
  ]);
  const person = facts?.get(personId);
  return whyWords(
    audience && person ? reasonsKnown(audience, person, now, names) : [],
    home?.name ?? 'the organisation',
  );
}
