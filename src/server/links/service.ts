import { eventSpan } from '../../core/content/event.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { versionById } from '../announcements/versionStore.ts';
import { addressIn } from '../uploads/address.ts';
import type { Database } from '../database/connection.ts';
import { acknowledge } from '../asks/service.ts';
import { answerOf } from '../asks/store.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact } from '../database/connection.ts';
import { personById, readerNow, setMailStopped } from '../people/store.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { readLink, verifyLink, type LinkClaim, type LinkPurpose } from './signed.ts';
import { statementOf } from '../../core/asks/ask.ts';

/** What a link from mail leads to, in terms its page can show. */
export type LinkPage =
  | { state: 'expired' | 'altered' | 'gone' }
  | {
      state: 'good';
      claim: LinkClaim;
      name: string;
      title: string;
      answeredMs: number | null;
      zone: string;
      statement: string;
      correctedMs: number | null;
      /** What it says, as this reader reads it. */
      html: string;
      /** What has been withdrawn is told of and not shown. */
      withdrawn: { atMs: number; note: string } | null;
    };

/** Opens a link without doing anything: mail scanners open every link, so only a POST may act. */
export async function openLink(
  db: Database,
  secret: string,
  token: string,
  purpose: LinkPurpose,
): Promise<LinkPage> {
  const verified = verifyLink(secret, token, purpose);
  if (!verified) return { state: 'altered' };
  const { claim } = verified;
  const [person, occurrence, answeredMs] = await Promise.all([
    readerNow(db, claim.personId),
    occurrenceById(db, claim.occurrenceId),
    answerOf(db, claim.occurrenceId, claim.personId),
  ]);
  if (person && person.nowMs >= verified.untilMs) return { state: 'expired' };
  if (
    !person ||
    person.left ||
    !occurrence ||
    ((purpose === 'acknowledge' || purpose === 'answer') && answeredMs === undefined)
  )
    return { state: 'gone' };
  const version = await versionById(db, occurrence.versionId);
  const eventMs = version?.event ? eventSpan(version.event).startMs : null;
  return {
    state: 'good',
    claim,
    name: person.reader.name,
    title: occurrence.title,
    answeredMs: answeredMs ?? null,
    zone: person.reader.zone,
    statement: statementOf(occurrence.asked),
    correctedMs: occurrence.correctedMs,
    withdrawn: occurrence.withdrawn,
    html:
      version && !occurrence.withdrawn
        ? sectionsHtml(version.sections, fillFor({ ...person.reader, atMs: occurrence.dueMs, eventMs }), {
            kind: 'page',
            level: 2,
            address: addressIn('sent', occurrence.id),
          })
        : '',
  };
}

/** Whose notices by mail a link stops; nothing where it is not whole, too old, or they have left. */
export async function openNoticesLink(
  db: Database,
  secret: string,
  token: string,
): Promise<{ state: 'expired' | 'altered' | 'gone' } | { state: 'good'; personId: number; name: string }> {
  const reading = readLink(secret, token, 'notices', await databaseNow(db));
  if (reading.state !== 'good') return reading;
  const person = await personById(db, reading.claim.personId);
  if (!person || person.standing === 'left') return { state: 'gone' };
  return { state: 'good', personId: person.id, name: person.name };
}

/** Does what a good link is for. Doing it again changes nothing. */
export async function followLink(
  db: Database,
  claim: LinkClaim,
  via: 'mail' | 'push' = 'mail',
): Promise<void> {
  if (claim.purpose === 'acknowledge') await acknowledge(db, claim.personId, claim.occurrenceId, via);
  else if (claim.purpose === 'unsubscribe') await stopMail(db, claim.personId, true);
}

/** Stops, or resumes, mail that may be stopped. What is urgent or asks for an answer still comes. */
export async function stopMail(db: Database, personId: number, stopped: boolean): Promise<void> {
  await transact(db, async (trx) => {
    await setMailStopped(trx, personId, stopped);
    await record(trx, {
      actorId: personId,
      action: stopped ? 'stop mail' : 'resume mail',
      subject: 'person',
      subjectId: personId,
    });
  });
}
