import type { ForMe, InboxItem, Reading } from '../../core/inbox/inbox.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { eventSpan } from '../../core/content/event.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { reasonsIn, whyWords } from '../../core/audience/words.ts';
import { planSchema } from '../../core/plan/plan.ts';
import { versionById } from '../announcements/store.ts';
import { factsOf } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, circumstances } from '../groups/directory.ts';
import { organisation, readerById } from '../people/store.ts';
import { bannerOf } from '../series/store.ts';
import { notFound } from '../problem.ts';
import { inboxItem, inboxPage, markRead, unanswered, type InboxRow } from './store.ts';

const PAGE = 30;

const item = (row: InboxRow): InboxItem => ({
  occurrenceId: row.occurrenceId,
  wentMs: row.wentMs,
  title: row.title,
  byline: row.byline,
  importance: row.importance,
  excerpt: row.excerpt,
  asked: row.asked === 1,
  answeredMs: row.answeredMs,
  deadlineMs: row.deadlineMs,
});

/** What came to a person: first what still needs their answer, then all of it by date, the latest first. */
export async function forMe(
  db: Database,
  personId: number,
  before: { wentMs: number; id: number } | null,
): Promise<ForMe> {
  const [waiting, found] = await Promise.all([
    before ? [] : unanswered(db, personId, 50),
    inboxPage(db, personId, before, PAGE + 1),
  ]);
  const items = found.slice(0, PAGE).map(item);
  const last = items.at(-1);
  return {
    unanswered: waiting.map(item),
    items,
    next: found.length > PAGE && last ? { wentMs: last.wentMs, id: last.occurrenceId } : null,
  };
}

/** One thing that came to a person, in full; a 404 problem where it did not come to them. Notes that it was read. */
export async function readItem(db: Database, personId: number, occurrenceId: number): Promise<Reading> {
  const row = await inboxItem(db, personId, occurrenceId);
  const version = row && (await versionById(db, row.versionId));
  if (!row || !version) throw notFound('announcement');
  const [reader, why, banner] = await Promise.all([
    readerById(db, personId),
    whyThis(db, personId, planSchema.parse(JSON.parse(row.plan)).audience),
    version.issue ? bannerOf(db, version.issue.seriesId) : null,
    markRead(db, occurrenceId, personId),
  ]);
  const eventMs = version.event ? eventSpan(version.event).startMs : null;
  const fill = fillFor(reader && { ...reader, atMs: row.wentMs, eventMs });
  return {
    ...item(row),
    html: sectionsHtml(version.sections, fill, { kind: 'page', level: 2 }),
    banner,
    button: version.button,
    event: version.event,
    why,
    corrected: row.correctedMs === null ? null : { atMs: row.correctedMs, note: row.correction ?? '' },
  };
}

async function whyThis(db: Database, personId: number, audience: Audience | null): Promise<string> {
  const now = await circumstances(db);
  const [facts, names, home] = await Promise.all([
    audience ? factsOf(db, [personId], audience, now) : null,
    audienceNames(db, now, [audience]),
    organisation(db),
  ]);
  const person = facts?.get(personId);
  return whyWords(
    audience && person ? reasonsIn(audience, person, now, names) : [],
    home?.name ?? 'the organisation',
  );
}
