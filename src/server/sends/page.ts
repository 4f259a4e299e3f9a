import { shownEvent } from '../../core/content/event.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { SendPage } from '../../core/sends/send.ts';
import { clockChangeWords } from '../../core/timing/wallTime.ts';
import { versionById } from '../announcements/versionStore.ts';
import { tellsWhoVoted } from '../asks/secrecy.ts';
import type { Database } from '../database/connection.ts';
import { placesOfOccurrence } from '../posts/occurrencePostStore.ts';
import { placesReached } from '../gateways/placeStore.ts';
import { notFound } from '../problem.ts';
import { addressIn } from '../uploads/address.ts';
import { bucketsOf } from './bucketStore.ts';
import { deliveryCounts, gatheredMail, troubles } from './occurrenceStore.ts';
import { openOccurrence } from './service.ts';
import { withOutcome } from './runSheet.ts';

/** One send: its sentence, what it says, how far it is, and who could not be reached and why. */
export async function sendPage(db: Database, actor: Actor, id: number): Promise<SendPage> {
  const occurrence = await openOccurrence(db, actor, id);
  const [[row], counts, gathered, trouble, version, buckets, posts, outside] = await Promise.all([
    withOutcome(db, actor, [occurrence]),
    deliveryCounts(db, [id]),
    gatheredMail(db, id),
    tellsWhoVoted(db, occurrence).then((secret) => (secret ? [] : troubles(db, id, 200))),
    versionById(db, occurrence.versionId),
    bucketsOf(db, id),
    placesOfOccurrence(db, id),
    placesReached(db, id),
  ]);
  if (!row || !version) throw notFound('send');
  const timing = occurrence.plan.timing;
  return {
    row,
    byline: version.byline,
    html: sectionsHtml(version.sections, fillFor(null), {
      kind: 'page',
      level: 3,
      address: addressIn('version', version.id),
    }),
    button: version.button,
    event: shownEvent(version.event),
    buckets,
    posts,
    outside,
    counts: counts.get(id) ?? [],
    gathered,
    troubles: trouble,
    clockNote: timing.kind === 'at' ? clockChangeWords(timing) : null,
  };
}
