import type { Plan } from '../../core/plan/plan.ts';
import { spanOf } from '../../core/plan/plan.ts';
import { insertCommitted } from '../announcements/store.ts';
import { freezeVersions } from '../announcements/versionStore.ts';
import type { Database } from '../database/connection.ts';
import { emitAll } from '../events/store.ts';
import { insertFirst } from '../sends/occurrenceStore.ts';
import { insertSends } from '../sends/store.ts';
import type { Saying } from './prepare.ts';

/** What is said, and where and when: as an automation or a way in has it. */
export type Spoken = Pick<
  Saying,
  'audience' | 'personId' | 'boards' | 'outside' | 'mail' | 'timing' | 'buckets' | 'content'
>;

/** By what something is said: the run of an automation, or the way in with a key that sets the message apart. */
type SpokenBy = { runId: number } | { hookId: number; key: string };

const planOf = (saying: Spoken): Plan => ({
  audience: saying.audience,
  mail: saying.mail,
  boards: saying.boards,
  outside: saying.outside,
  contacts: false,
  timing: saying.timing,
  ask: { kind: 'nothing' },
});

/**
 * Makes all that is said an ordinary send each: an announcement with its plan and one occurrence, delivered, counted, retried
 * and explained like any other. Call it in the transaction that ends what it is said by.
 *
 * @returns the occurrence of each, in their order; null where its hour has passed everywhere
 * @throws the database's duplicate-key error where a message of a key was said before
 */
export async function speakAll(
  trx: Database,
  ownerId: number,
  said: readonly { by: SpokenBy; saying: Spoken }[],
): Promise<(number | null)[]> {
  const going = said.flatMap(({ by, saying }, at) => {
    const span = spanOf(saying.buckets);
    return span ? [{ at, by, saying, span, plan: planOf(saying) }] : [];
  });
  const announcements = await insertCommitted(
    trx,
    ownerId,
    going.map(({ saying, plan }) => ({ content: saying.content, plan })),
  );
  const made = going.map((each, i) => ({ ...each, announcementId: announcements[i] ?? 0 }));
  const versions = await freezeVersions(
    trx,
    ownerId,
    'sent',
    made.map(({ announcementId, saying }) => ({ announcementId, content: saying.content, number: null })),
  );
  const sends = await insertSends(
    trx,
    made.map(({ announcementId, by, plan, saying }, i) => ({
      announcementId,
      versionId: versions[i] ?? 0,
      createdBy: ownerId,
      plan,
      ...('runId' in by ? { ...by, key: `run.${by.runId}.${announcementId}` } : by),
      toOne: saying.personId !== null,
    })),
  );
  const occurrences = await insertFirst(
    trx,
    made.map(({ saying, span }, i) => ({
      sendId: sends[i] ?? 0,
      versionId: versions[i] ?? 0,
      recursAt: '',
      buckets: saying.buckets,
      ...span,
      deadlineMs: null,
    })),
  );
  await emitAll(
    trx,
    'send.planned',
    occurrences.map((occurrence) => ({ occurrence })),
  );
  const found: (number | null)[] = said.map(() => null);
  for (const [i, { at }] of made.entries()) found[at] = occurrences[i] ?? null;
  return found;
}

/** As `speakAll`, for one thing. */
export async function speak(
  trx: Database,
  ownerId: number,
  by: SpokenBy,
  saying: Spoken,
): Promise<number | null> {
  return (await speakAll(trx, ownerId, [{ by, saying }]))[0] ?? null;
}
