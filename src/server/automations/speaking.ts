import type { Plan } from '../../core/plan/plan.ts';
import { insertAnnouncement, freezeVersion } from '../announcements/store.ts';
import type { Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { spanOf } from '../../core/plan/plan.ts';
import { insertOccurrence } from '../sends/occurrenceStore.ts';
import { insertSend } from '../sends/store.ts';
import type { Saying } from './prepare.ts';

/** What is said, and where and when: as an automation or a way in has it. */
export type Spoken = Pick<
  Saying,
  'audience' | 'personId' | 'boards' | 'outside' | 'mail' | 'timing' | 'buckets' | 'content'
>;

/**
 * Makes what is said an ordinary send: an announcement with its plan and one occurrence, delivered, counted, retried and
 * explained like any other. Call it in the transaction that ends what it is said by.
 *
 * @param by the run of an automation, or the way in with a key that sets the message apart
 * @returns the occurrence; null where its hour has passed everywhere
 * @throws the database's duplicate-key error where a message of the key was said before
 */
export async function speak(
  trx: Database,
  ownerId: number,
  by: { runId: number } | { hookId: number; key: string },
  saying: Spoken,
): Promise<number | null> {
  const plan: Plan = {
    audience: saying.audience,
    mail: saying.mail,
    boards: saying.boards,
    outside: saying.outside,
    contacts: false,
    timing: saying.timing,
    ask: { kind: 'nothing' },
  };
  const span = spanOf(saying.buckets);
  if (!span) return null;
  const announcementId = await insertAnnouncement(trx, ownerId, saying.content, plan, 'committed');
  const versionId = await freezeVersion(trx, announcementId, ownerId, saying.content, 'sent');
  const sendId = await insertSend(trx, {
    announcementId,
    versionId,
    createdBy: ownerId,
    plan,
    ...('runId' in by ? { ...by, key: `run.${by.runId}.${announcementId}` } : by),
    toOne: saying.personId !== null,
  });
  const occurrenceId = await insertOccurrence(trx, {
    sendId,
    versionId,
    recursAt: '',
    buckets: saying.buckets,
    ...span,
    deadlineMs: null,
  });
  if (occurrenceId !== null) await emit(trx, 'send.planned', { occurrence: occurrenceId });
  return occurrenceId;
}
