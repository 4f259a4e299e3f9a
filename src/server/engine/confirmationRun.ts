import { randomBytes } from 'node:crypto';
import pMap from 'p-map';
import { eventLink, eventSpan } from '../../core/content/event.ts';
import { afterFailure } from '../../core/delivery/retry.ts';
import { lastsWords, momentWords, zoneWords } from '../../core/timing/words.ts';
import type { Database } from '../database/connection.ts';
import { untilRecorded } from '../database/untilRecorded.ts';
import { claimLetterRows, concludeLetterRow, type LetterOutcome } from '../database/letterClaims.ts';
import { signLink } from '../links/signed.ts';
import { layOutConfirmation } from '../mail/confirmation.tsx';
import { failureOf } from '../mail/transport.ts';
import { organisation } from '../people/store.ts';
import { eventNow, type EventNow } from '../sign-ups/confirming.ts';
import { noteTold, signUpsToConfirm, type SignUpToConfirm } from '../sign-ups/store.ts';
import type { MailWorld } from './mailRun.ts';

const BATCH = 200;
const AT_ONCE = 8;

/**
 * Confirms sign-ups by mail, each with the event for its reader's calendar. Who was told already is told again where what is told
 * has become another, and not otherwise.
 *
 * @returns how many were taken up
 */
export async function confirmSignUps(db: Database, world: MailWorld, claimSeconds: number): Promise<number> {
  const claim = randomBytes(8).toString('hex');
  const ids = await claimLetterRows(db, 'sign_ups', { claim, seconds: claimSeconds, most: BATCH });
  if (ids.length === 0) return 0;
  const claimed = await signUpsToConfirm(db, ids);
  const host = new URL(world.publicUrl).hostname;
  const events = new Map<number, Promise<EventNow | undefined>>();
  for (const { occurrenceId } of claimed)
    if (!events.has(occurrenceId)) events.set(occurrenceId, eventNow(db, occurrenceId, host));
  const home = (await organisation(db))?.name ?? 'Clear Bell';
  await pMap(
    claimed,
    async (signUp) => {
      const outcome = await confirm(db, world, {
        signUp,
        event: await events.get(signUp.occurrenceId),
        home,
      });
      await untilRecorded(() => concludeLetterRow(db, 'sign_ups', { id: signUp.id, claim, outcome }), {
        stop: world.stop,
      });
    },
    { concurrency: AT_ONCE },
  );
  return ids.length;
}

async function confirm(
  db: Database,
  world: MailWorld,
  { signUp, event: now, home }: { signUp: SignUpToConfirm; event: EventNow | undefined; home: string },
): Promise<LetterOutcome> {
  const nowMs = world.nowMs();
  const first = signUp.told === 0;
  if (!now || now.digest === signUp.digest || (first && now.off)) return { state: 'sent', nothing: true };
  const { startMs, endMs } = eventSpan(now.event);
  if (endMs <= nowMs) return { state: 'failed', reason: 'It was over before the mail could go' };
  const zone = signUp.zone ?? now.event.zone;
  const claim = { purpose: 'sign-up', occurrenceId: signUp.occurrenceId, personId: signUp.id } as const;
  try {
    const laidOut = await layOutConfirmation({
      organisation: home,
      name: signUp.name,
      title: now.title,
      when: `${momentWords(startMs, zone)} in ${zoneWords(zone)}, for ${lastsWords(now.event.minutes)}.`,
      place: now.event.place.trim(),
      link: eventLink(now.event),
      sharedBy: signUp.sharedBy,
      kind: now.off ? 'off' : first ? 'first' : 'changed',
      withdrawUrl: `${world.publicUrl}/m/sign-up/${signLink(world.secret, claim, nowMs)}`,
    });
    await world.transport.send({
      // The same at each attempt, so that one that was taken before its engine died is known again (RFC 5322 section 3.6.4).
      messageId: `<sign-up.${signUp.id}.${signUp.told}@${new URL(world.publicUrl).hostname}>`,
      fromName: home,
      toName: signUp.name,
      to: signUp.mail,
      subject: laidOut.subject,
      html: laidOut.html,
      text: laidOut.text,
      urgent: false,
      listId: null,
      unsubscribeUrl: null,
      calendar: now.calendar(signUp.told),
    });
    await noteTold(db, signUp.id, now.digest);
    return { state: 'sent' };
  } catch (error) {
    const verdict = afterFailure(
      failureOf(error),
      signUp.attempts,
      nowMs - signUp.waitsSinceMs,
      Math.random(),
    );
    return verdict.outcome === 'failed'
      ? { state: 'failed', reason: verdict.reason }
      : { state: 'waiting', waitMs: verdict.waitMs };
  }
}
