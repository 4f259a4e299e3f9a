import type { ForMe, InboxItem, Reading } from '../../core/inbox/inbox.ts';
import { documentHtml } from '../../core/content/html.ts';
import { reasonsIn, whyWords } from '../../core/audience/words.ts';
import { planSchema } from '../../core/plan/plan.ts';
import { versionById } from '../announcements/store.ts';
import { factsOf } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, circumstances } from '../groups/directory.ts';
import { organisation } from '../people/store.ts';
import { notFound } from '../problem.ts';
import { inboxItem, inboxPage, unanswered, type InboxRow } from './store.ts';

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

/** One thing that came to a person, in full; a 404 problem where it did not come to them. */
export async function readItem(db: Database, personId: number, occurrenceId: number): Promise<Reading> {
  const row = await inboxItem(db, personId, occurrenceId);
  const version = row && (await versionById(db, row.versionId));
  if (!row || !version) throw notFound('announcement');
  return {
    ...item(row),
    html: documentHtml(version.document),
    button: version.button,
    why: await whyThis(db, personId, planSchema.parse(JSON.parse(row.plan)).audience),
  };
}

async function whyThis(
  db: Database,
  personId: number,
  audience: ReturnType<typeof planSchema.parse>['audience'],
): Promise<string> {
  const now = await circumstances(db);
  const [facts, names, home] = await Promise.all([
    factsOf(db, [personId]),
    audienceNames(db, now),
    organisation(db),
  ]);
  const person = facts.get(personId);
  return whyWords(
    audience && person ? reasonsIn(audience, person, now, names) : [],
    home?.name ?? 'the organisation',
  );
}
