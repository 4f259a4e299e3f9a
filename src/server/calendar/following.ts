import { deadlineOf } from '../../core/asks/ask.ts';
import { eventSpan, type EventDetails } from '../../core/content/event.ts';
import { bucketsOnce } from '../../core/plan/plan.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { announcementById, reopen, setContent } from '../announcements/store.ts';
import { contentOf, freezeVersion, versionById } from '../announcements/versionStore.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import type { Handlers } from '../events/follow.ts';
import { emit } from '../events/store.ts';
import { notifyPeople } from '../notices/notify.ts';
import { replaceBuckets } from '../sends/bucketStore.ts';
import { recallChases } from '../sends/chaseStore.ts';
import { planChases } from '../sends/chasing.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { reachSpan } from '../sends/planning.ts';
import { changeSend, lockSend } from '../sends/store.ts';
import { recallOccurrence } from '../sends/takingBackStore.ts';
import { eventOfDate } from './dateEvent.ts';
import { dateById, type DateRow } from './dateStore.ts';
import { countRevision, draftsOfSession, giveText, plannedOfSession } from './followingStore.ts';

/** A date in the place of the one an announcement tells of; null where nothing of it has changed. */
function moved(event: EventDetails, date: DateRow): EventDetails | null {
  const now: EventDetails = { ...eventOfDate(date), signUp: event.signUp };
  const same = (['minutes', 'place', 'link'] as const).every((part) => now[part] === event[part]);
  return same && eventSpan(now).startMs === eventSpan(event).startMs ? null : now;
}

const whenWords = (event: EventDetails): string =>
  `${momentWords(eventSpan(event).startMs, event.zone)} in ${zoneWords(event.zone)}`;

/** What does not take place is not announced: it becomes a draft again, of which its author is told. */
async function takeBack(trx: Database, occurrence: Occurrence, dedupeKey: string): Promise<void> {
  if ((await recallOccurrence(trx, occurrence.id)) !== 'all of it') return;
  await recallChases(trx, occurrence.id, 'What it follows up was taken back.');
  const draft = occurrence.plan.timing.kind !== 'recurring' && (await reopen(trx, occurrence.announcementId));
  await emit(trx, 'occurrence.changed', { occurrence: occurrence.id });
  await notifyPeople(trx, [occurrence.createdBy], {
    kind: 'session',
    title: `“${occurrence.title}” does not go out: what it tells of does not take place`,
    text: draft ? 'It is a draft again.' : '',
    path: draft ? `/write/${occurrence.announcementId}` : `/sends/${occurrence.id}`,
    why: 'You planned it.',
    dedupeKey,
  });
}

/** Has what is planned tell of a date as it is now, and go so long before it where it is to go before it. */
async function follow(
  trx: Database,
  occurrence: Occurrence,
  content: ReturnType<typeof contentOf>,
  event: EventDetails,
  dedupeKey: string,
): Promise<void> {
  const send = await lockSend(trx, occurrence.sendId);
  if (!send) return;
  const number = (await versionById(trx, occurrence.versionId))?.number ?? null;
  const text = { ...content, event };
  const { announcementId, plan } = occurrence;
  const versionId = await freezeVersion(trx, announcementId, occurrence.createdBy, text, 'sent', number);
  let when = '';
  if (plan.timing.kind === 'before event') {
    const buckets = bucketsOnce(plan.timing, event, [], await databaseNow(trx));
    const span = reachSpan(buckets, { all: [], reached: [] });
    if (!span) return;
    const deadlineMs = deadlineOf(plan.ask, span.lastMs);
    const made = { buckets, ...span, deadlineMs, movedTo: null, versionId };
    if (!(await replaceBuckets(trx, occurrence.id, made))) return;
    await planChases(trx, { ...send, versionId }, occurrence.id, { lastMs: span.lastMs, deadlineMs });
    when = ` It goes out at ${momentWords(span.firstMs, event.zone)} there.`;
  } else if (!(await giveText(trx, occurrence.id, versionId))) return;
  await changeSend(trx, send.id, versionId, plan);
  await setContent(trx, announcementId, text);
  await emit(trx, 'occurrence.changed', { occurrence: occurrence.id });
  await notifyPeople(trx, [occurrence.createdBy], {
    kind: 'session',
    title: `“${occurrence.title}” tells of it as it is now`,
    text: `What it tells of is at ${whenWords(event)}${event.place === '' ? '' : `, ${event.place}`}.${when} Look whether its words still hold.`,
    path: `/sends/${occurrence.id}`,
    why: 'You planned it.',
    dedupeKey,
  });
}

/** What is planned or being written of a session's dates goes with them when they move, and not at all when they are called off. */
export const sendsOfSessions: Handlers = {
  'session.changed': async (trx, of, eventId) => {
    for (const planned of await plannedOfSession(trx, of.session)) {
      await lockSend(trx, planned.sendId);
      const occurrence = await occurrenceById(trx, planned.occurrenceId);
      const version = occurrence && (await versionById(trx, occurrence.versionId));
      if (occurrence?.state !== 'scheduled' || !version?.event) continue;
      const dedupeKey = `occurrence ${occurrence.id} with its session ${eventId}`;
      const date = await dateById(trx, planned.dateId);
      if (!date || date.calledOff) await takeBack(trx, occurrence, dedupeKey);
      else {
        const event = moved(version.event, date);
        if (event) await follow(trx, occurrence, contentOf(version), event, dedupeKey);
      }
    }
    for (const { id, dateId } of await draftsOfSession(trx, of.session)) {
      const [draft, date] = await Promise.all([announcementById(trx, id), dateById(trx, dateId)]);
      const event = draft?.content.event && date && moved(draft.content.event, date);
      if (!draft || !event) continue;
      await setContent(trx, id, { ...draft.content, event });
      await countRevision(trx, id);
    }
  },
};
