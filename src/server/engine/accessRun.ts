import { randomBytes } from 'node:crypto';
import pMap from 'p-map';
import { afterFailure } from '../../core/delivery/retry.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { accessToken } from '../access/link.ts';
import { claimLetters, type ClaimedLetter } from '../access/store.ts';
import type { Database } from '../database/connection.ts';
import { untilRecorded } from '../database/untilRecorded.ts';
import { concludeLetterRow, type LetterOutcome } from '../database/letterClaims.ts';
import { layOutAccessLetter } from '../mail/accessLetter.tsx';
import { failureOf } from '../mail/transport.ts';
import { organisation, personById } from '../people/store.ts';
import type { MailWorld } from './mailRun.ts';

const BATCH = 200;
const AT_ONCE = 8;

/**
 * Hands over letters that let people in. Quiet hours do not hold them: who asked waits for theirs, and an invitation is
 * read when its reader comes to it.
 *
 * @returns how many were taken up
 */
export async function handOverLetters(db: Database, world: MailWorld, claimSeconds: number): Promise<number> {
  const claim = randomBytes(8).toString('hex');
  const claimed = await claimLetters(db, claim, claimSeconds, BATCH);
  if (claimed.length === 0) return 0;
  const home = await organisation(db);
  await pMap(
    claimed,
    async (letter) => {
      const outcome = await handOver(db, world, letter, home?.name ?? 'Clear Bell');
      await untilRecorded(() => concludeLetterRow(db, 'access_letters', { id: letter.id, claim, outcome }), {
        stop: world.stop,
      });
    },
    { concurrency: AT_ONCE },
  );
  return claimed.length;
}

async function handOver(
  db: Database,
  world: MailWorld,
  letter: ClaimedLetter,
  home: string,
): Promise<LetterOutcome> {
  const nowMs = world.nowMs();
  if (letter.mail === null || letter.left) return { state: 'failed', reason: 'There is no address any more' };
  if (letter.kind !== 'told' && letter.expiresMs <= nowMs)
    return { state: 'failed', reason: 'Its link was too old before it could go' };
  try {
    const zone = (await personById(db, letter.personId))?.zone ?? 'UTC';
    const laidOut = await layOutAccessLetter({
      organisation: home,
      kind: letter.kind,
      name: letter.name,
      by: letter.by,
      words: letter.words,
      url:
        letter.kind === 'told' ? null : `${world.publicUrl}/access/${accessToken(world.secret, letter.id)}`,
      until: `${momentWords(letter.expiresMs, zone, nowMs)} (${zoneWords(zone)})`,
    });
    const host = new URL(world.publicUrl).hostname;
    await world.transport.send({
      messageId: `<access.${letter.id}@${host}>`,
      fromName: home,
      toName: letter.name,
      to: letter.mail,
      subject: laidOut.subject,
      html: laidOut.html,
      text: laidOut.text,
      urgent: false,
      listId: null,
      unsubscribeUrl: null,
      calendar: null,
    });
    return { state: 'sent' };
  } catch (error) {
    const verdict = afterFailure(failureOf(error), letter.attempts, nowMs - letter.madeMs, Math.random());
    return verdict.outcome === 'failed'
      ? { state: 'failed', reason: verdict.reason }
      : { state: 'waiting', waitMs: verdict.waitMs };
  }
}
