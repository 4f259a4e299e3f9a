import { isReadable } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { OtherGoing } from '../../core/load/otherGoing.ts';
import { automationGoings } from '../automations/ahead.ts';
import { bundleable } from '../bundling/waiting.ts';
import type { Database } from '../database/connection.ts';
import type { Other } from '../rehearsal/store.ts';
import { duesOf } from './bucketStore.ts';
import type { Occurrence } from './occurrenceStore.ts';

/**
 * What of some occurrences, and of the automations of a period of time, reaches people: what was recalled or failed does not, nor
 * what has an audience that cannot be read.
 *
 * @param whose whose automations are told of; null for all
 */
export async function otherGoings(
  db: Database,
  occurrences: readonly Occurrence[],
  { fromMs, toMs, whose }: { fromMs: number; toMs: number; whose: number | null },
  now: AudienceContext,
): Promise<OtherGoing[]> {
  const alive = occurrences.flatMap((each) => {
    const { audience } = each.plan;
    return audience && each.state !== 'recalled' && each.state !== 'failed' ? [{ each, audience }] : [];
  });
  const [dues, automations] = await Promise.all([
    duesOf(
      db,
      alive.map(({ each }) => each.id),
    ),
    automationGoings(db, fromMs, toMs, whose),
  ]);
  return [
    ...alive.map(({ each, audience }): OtherGoing => ({
      id: each.id,
      sendId: each.sendId,
      title: each.title,
      ownerId: each.createdBy,
      state: each.state,
      dueMs: each.dueMs,
      endsMs: each.endsMs,
      audience,
      dues: dues.get(each.id) ?? [],
      what: () => bundleable(db, each),
    })),
    ...automations,
  ].filter(({ audience }) => isReadable(audience, now));
}

/** As it is asked which people get it; in some zones alone where that is wished. */
export const asOther = ({ id, audience, state }: OtherGoing, zones: Other['zones'] = 'all'): Other => ({
  occurrenceId: id,
  zones,
  audience,
  gone: state === 'sent',
});
