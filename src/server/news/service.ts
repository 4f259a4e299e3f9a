import { z } from 'zod';
import type { NewsFeed } from '../../core/inbox/newsFeed.ts';
import type { Section } from '../../core/content/section.ts';
import { readBody } from '../../core/stored.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { excerpt } from '../../core/content/text.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { record } from '../audit/store.ts';
import { boardsSeenBy, visibleBoard } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { hashedKey, newFeedKeyText } from '../links/feedKey.ts';
import { organisation, readerById } from '../people/store.ts';
import { sectionsOfPost } from '../posts/parts.ts';
import { postsPage } from '../posts/store.ts';
import { notFound, orNone } from '../problem.ts';
import { seriesIndex } from '../series/service.ts';
import { allSeries } from '../series/store.ts';
import { addressIn, lastDayIn, type Place } from '../uploads/address.ts';
import { atomOf, jsonOf, type Entry, type Feed } from './document.ts';
import { cameTo, personByNewsKey, sentByIds, setNewsKey, type Sent } from './store.ts';

const PAGE = 50;
const cursorSchema = z.object({ atMs: z.number(), id: z.number() });
type Cursor = z.infer<typeof cursorSchema>;

type Reader = Awaited<ReturnType<typeof readerById>>;

/** What is read of a feed: which entries, and where its page ends. */
interface Read {
  title: string;
  home: string;
  entries: Entry[];
  next: Cursor | null;
}

interface Reading {
  db: Database;
  actor: Actor;
  reader: Reader;
  publicUrl: string;
  before: Cursor | null;
}

const cursorText = ({ atMs, id }: Cursor): string => `${atMs.toString(36)}.${id.toString(36)}`;

/** Reads where a page begins; the first page for anything else. */
function readCursor(text: string | null): Cursor | null {
  const [at = '', id = ''] = (text ?? '').split('.');
  const parsed = cursorSchema.safeParse({ atMs: Number.parseInt(at, 36), id: Number.parseInt(id, 36) });
  return parsed.success ? parsed.data : null;
}

function entryOf(
  { reader, publicUrl }: Reading,
  given: {
    path: string;
    title: string;
    author: string;
    atMs: number;
    changedMs: number;
    versionId: number;
    sections: () => readonly Section[];
  },
  place: { kind: Place; id: number },
): Entry {
  return {
    url: `${publicUrl}${given.path}`,
    title: given.title,
    author: given.author,
    atMs: given.atMs,
    changedMs: given.changedMs,
    versionId: given.versionId,
    says: () => {
      const sections = given.sections();
      const fill = fillFor(reader && { ...reader, atMs: given.atMs, eventMs: null });
      return {
        html: sectionsHtml(sections, fill, {
          kind: 'mail',
          publicUrl,
          address: addressIn(place.kind, place.id, 'mail'),
          watchUrl: `${publicUrl}${given.path}`,
        }),
        summary: excerpt(sections),
      };
    },
  };
}

/** What is withdrawn is told of, without what it said. */
function sentEntry(reading: Reading, sent: Sent, path: string): Entry {
  const entry = entryOf(
    reading,
    {
      ...sent,
      path,
      sections: () => readBody(sent.body).sections,
      changedMs: Math.max(sent.atMs, sent.correctedMs ?? 0, sent.withdrawnMs ?? 0),
    },
    { kind: 'sent', id: sent.occurrenceId },
  );
  return sent.withdrawnMs === null
    ? entry
    : { ...entry, says: () => ({ html: '', summary: `Withdrawn: ${sent.withdrawn ?? ''}`.trim() }) };
}

async function forMeFeed(reading: Reading): Promise<Read> {
  const { db, actor, publicUrl, before } = reading;
  const found = await cameTo(db, actor.id, before, PAGE + 1);
  const page = found.slice(0, PAGE);
  const last = found.length > PAGE ? page.at(-1) : undefined;
  return {
    title: 'For me',
    home: `${publicUrl}/for-me`,
    entries: page.map((sent) => sentEntry(reading, sent, `/for-me/${sent.occurrenceId}`)),
    next: last ? { atMs: last.atMs, id: last.occurrenceId } : null,
  };
}

async function boardFeed(reading: Reading, id: number): Promise<Read> {
  const { db, actor, publicUrl, before } = reading;
  const board = await visibleBoard(db, actor, id);
  const found = await postsPage(db, id, before && { postedMs: before.atMs, id: before.id }, PAGE + 1);
  const page = found.slice(0, PAGE);
  const last = found.length > PAGE ? page.at(-1) : undefined;
  return {
    title: board.name,
    home: `${publicUrl}/boards/${id}`,
    entries: page.map((post) =>
      entryOf(
        reading,
        {
          path: `/posts/${post.id}`,
          title: post.parts > 1 ? `${post.title} (${post.part} of ${post.parts})` : post.title,
          author: post.byline === '' ? post.authorName : post.byline,
          atMs: post.postedMs,
          changedMs: Math.max(post.postedMs, post.editedMs ?? 0, post.correctedMs ?? 0),
          versionId: post.versionId,
          sections: () => sectionsOfPost(post),
        },
        { kind: 'post', id: post.id },
      ),
    ),
    next: last ? { atMs: last.postedMs, id: last.id } : null,
  };
}

async function seriesFeed(reading: Reading, id: number): Promise<Read> {
  const { db, actor, publicUrl, before } = reading;
  const series = await seriesIndex(db, actor, id);
  const later = series.issues.filter(
    (issue) =>
      !before || issue.dueMs < before.atMs || (issue.dueMs === before.atMs && issue.occurrenceId < before.id),
  );
  const page = later.slice(0, PAGE);
  const sent = await sentByIds(
    db,
    page.map((issue) => issue.occurrenceId),
  );
  const last = later.length > PAGE ? page.at(-1) : undefined;
  return {
    title: series.name,
    home: `${publicUrl}/issues/${id}`,
    entries: page.flatMap((issue) => {
      const found = sent.get(issue.occurrenceId);
      return found ? [sentEntry(reading, found, issue.path)] : [];
    }),
    next: last ? { atMs: last.dueMs, id: last.occurrenceId } : null,
  };
}

/** Makes the secret addresses of somebody's feeds; those before end. They are shown once. */
export async function newNewsKey(db: Database, actor: Actor, publicUrl: string): Promise<NewsFeed[]> {
  const key = newFeedKeyText();
  await transact(db, async (trx) => {
    await setNewsKey(trx, actor.id, hashedKey(key));
    await record(trx, {
      actorId: actor.id,
      action: 'make news feed',
      subject: 'person',
      subjectId: actor.id,
    });
  });
  const [boards, all] = await Promise.all([boardsSeenBy(db, actor), allSeries(db)]);
  const series = await Promise.all(all.map(({ id }) => orNone(seriesIndex(db, actor, id))));
  const feed = (name: string, path: string): NewsFeed => ({
    name,
    atom: `${publicUrl}/feeds/news/${key}/${path}.atom`,
    json: `${publicUrl}/feeds/news/${key}/${path}.json`,
  });
  return [
    feed('For me', 'for-me'),
    ...boards.filter((board) => !board.archived).map((board) => feed(board.name, `boards/${board.id}`)),
    ...series.flatMap((each) => (each ? [feed(each.name, `series/${each.id}`)] : [])),
  ];
}

/** A page of a feed, and what it depends on: where that is the same, so is its text. */
interface NewsText {
  stamp: string;
  text: () => string;
  type: string;
}

/**
 * A page of a feed, for a program that has no session: the key in the address is the right to read it, as far as whoever made it
 * may read the same in the application now.
 *
 * @param what `for-me.atom`, `boards/1.json`, `series/1.atom`
 * @param before where the page begins, as its address says
 * @throws 404 where nobody has the key, they have left, or what is asked for is not theirs to read
 */
export async function newsFeed(
  db: Database,
  asked: { key: string; what: string; before: string | null },
  publicUrl: string,
): Promise<NewsText> {
  const nowhere = notFound('feed');
  const [, kind, id, form] =
    /^(for-me|boards|series)(?:\/([1-9]\d{0,14}))?\.(atom|json)$/.exec(asked.what) ?? [];
  if (kind === undefined || (kind === 'for-me') !== (id === undefined)) throw nowhere;
  const person = await personByNewsKey(db, hashedKey(asked.key));
  const actor = person && (await actorOf(db, person.id));
  if (!actor) throw nowhere;
  const [reader, home] = await Promise.all([readerById(db, actor.id), organisation(db)]);
  const reading: Reading = { db, actor, reader, publicUrl, before: readCursor(asked.before) };
  const read =
    kind === 'boards'
      ? await boardFeed(reading, Number(id))
      : kind === 'series'
        ? await seriesFeed(reading, Number(id))
        : await forMeFeed(reading);
  const first = `${publicUrl}/feeds/news/${asked.key}/${asked.what}`;
  const at = (cursor: Cursor | null): string => (cursor ? `${first}?before=${cursorText(cursor)}` : first);
  const feed: Feed = {
    title: read.title,
    home: read.home,
    self: at(reading.before),
    next: read.next && at(read.next),
    first,
    organisation: home?.name ?? 'Clear Bell',
    entries: read.entries,
  };
  const stamp = JSON.stringify([form, feed, reader, lastDayIn('mail')]);
  return form === 'json'
    ? { stamp, text: () => jsonOf(feed), type: 'application/feed+json; charset=utf-8' }
    : { stamp, text: () => atomOf(feed), type: 'application/atom+xml; charset=utf-8' };
}
