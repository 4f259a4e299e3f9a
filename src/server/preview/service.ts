import { eventSpan } from '../../core/content/event.ts';
import type { Reader } from '../../core/content/field.ts';
import { hasDeadline } from '../../core/asks/ask.ts';
import { isLocal, mayUnsubscribe, waitsForMorning, type Plan } from '../../core/plan/plan.ts';
import type { Content } from '../../core/content/announcement.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { dueToReader } from '../../core/sends/rehearsal.ts';
import { numbered } from '../../core/series/series.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { letterAsk } from '../asks/kinds.ts';
import { layOutLetter } from '../mail/letter.tsx';
import { clocks, organisation, personById, quietOf } from '../people/store.ts';
import { notFound } from '../problem.ts';
import { bucketsNow } from '../rehearsal/service.ts';
import { zonesOf } from '../sends/planning.ts';
import { mailedPicture } from '../senders/picture.ts';
import { seriesById } from '../series/store.ts';
import { addressIn } from '../uploads/address.ts';

/** A reader with the instant at which the saved plan would reach them. */
export async function readerOf(
  db: Database,
  plan: Plan,
  content: Pick<Content, 'event' | 'importance'>,
  personId: number,
): Promise<Reader> {
  const [person, quiet, everyClock, home, nowMs] = await Promise.all([
    personById(db, personId),
    quietOf(db, personId),
    clocks(db),
    organisation(db),
    databaseNow(db),
  ]);
  if (!person) throw notFound('person');
  const buckets = bucketsNow(plan, content, isLocal(plan.timing) ? zonesOf(everyClock) : [], nowMs);
  const { dueMs } = dueToReader(
    buckets,
    { zone: person.zone, quiet },
    home?.quiet ?? null,
    waitsForMorning(content.importance),
  );
  return {
    name: person.name,
    station: person.stationName,
    greeting: person.greeting,
    occupation: person.occupation,
    zone: person.zone,
    atMs: dueMs ?? nowMs,
    eventMs: content.event ? eventSpan(content.event).startMs : null,
  };
}

/** A draft's reader, for showing the draft as they would see it. */
export async function previewReader(
  db: Database,
  actor: Actor,
  announcementId: number,
  personId: number,
): Promise<Reader> {
  const draft = await openAnnouncement(db, actor, announcementId);
  return readerOf(db, draft.plan, draft.content, personId);
}

/** A draft as the mail one reader would get, in both parts. Its links lead nowhere. */
export async function previewMail(
  db: Database,
  actor: Actor,
  announcementId: number,
  personId: number,
): Promise<{ html: string; text: string }> {
  const { content, plan } = await openAnnouncement(db, actor, announcementId);
  const [reader, home, series] = await Promise.all([
    readerOf(db, plan, content, personId),
    organisation(db),
    content.issue ? seriesById(db, content.issue.seriesId) : undefined,
  ]);
  const letter = await layOutLetter({
    content: { ...content, title: numbered(content.title, series?.nextNumber ?? null) },
    organisation: home?.name ?? '',
    ask: letterAsk(plan.ask),
    hasDeadline: hasDeadline(plan.ask),
    stoppable: mayUnsubscribe(content.importance, plan.ask),
    banner: series?.banner ?? null,
    senderPicture: await mailedPicture(db, content.byline),
    publicUrl: '',
    address: addressIn('draft', announcementId),
    bannerAddress: addressIn('series', content.issue?.seriesId ?? 0),
  });
  return letter({
    why: 'Here stands why they got it.',
    readUrl: '#',
    answerUrl: '#',
    unsubscribeUrl: '#',
    passOnUrl: '#',
    comingUrl: '#',
    deadline: 'the deadline, on their clock',
    reader,
  });
}
