import { z } from 'zod';
import { eventSpan, type EventDetails } from '../../core/content/event.ts';
import { zoneSchema } from '../../core/timing/wallTimeSchema.ts';
import { isBlank } from '../../core/content/document.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { versionById } from '../announcements/versionStore.ts';
import { eventCalendar, eventUid } from '../calendar/event.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { readLink, signLink } from '../links/signed.ts';
import { emit } from '../events/store.ts';
import { personById } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { openOccurrence } from '../sends/service.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { allSignUps, deleteSignUp, insertSignUp, signUpById } from './store.ts';

/** An event as those see it who were passed a reader's own link. */
export type Invitation =
  | { state: 'expired' | 'altered' | 'gone' }
  | {
      state: 'good';
      occurrenceId: number;
      sharedById: number;
      sharedBy: string;
      title: string;
      event: EventDetails;
      over: boolean;
    };

/** Opens the link a reader passed on. It says who passed it on and what the event is, and nothing else. */
export async function openInvitation(db: Database, secret: string, token: string): Promise<Invitation> {
  const nowMs = await databaseNow(db);
  const reading = readLink(secret, token, 'event', nowMs);
  if (reading.state !== 'good') return reading;
  const { occurrenceId, personId } = reading.claim;
  const [person, occurrence] = await Promise.all([
    personById(db, personId),
    occurrenceById(db, occurrenceId),
  ]);
  const version = occurrence && (await versionById(db, occurrence.versionId));
  if (
    !person ||
    !occurrence ||
    !version?.event?.signUp ||
    occurrence.state === 'recalled' ||
    occurrence.withdrawn
  )
    return { state: 'gone' };
  const { event } = version;
  return {
    state: 'good',
    occurrenceId,
    sharedById: personId,
    sharedBy: person.name,
    title: version.title,
    event,
    over: eventSpan(event).endMs < nowMs,
  };
}

export const signUpSchema = z.object({
  name: z
    .string()
    .trim()
    .max(160, 'A name has at most 160 characters')
    .refine((name) => !isBlank(name), 'Write your name'),
  mail: z.email('Write a mail address such as name@example.org').max(254),
  /** The clock of the browser it comes from; what is none is left out. */
  zone: zoneSchema.nullable().catch(null).default(null),
});

/** Signs somebody up under the link they were passed, and has it confirmed by mail. Doing it again is doing it once. */
export async function signUp(
  db: Database,
  invitation: Extract<Invitation, { state: 'good' }>,
  input: z.infer<typeof signUpSchema>,
): Promise<void> {
  if (invitation.over) throw new Problem(409, 'The event is over.');
  await transact(db, async (trx) => {
    await insertSignUp(trx, {
      occurrenceId: invitation.occurrenceId,
      sharedBy: invitation.sharedById,
      name: input.name,
      mail: input.mail.toLowerCase(),
      zone: input.zone,
    });
    await emit(trx, 'sign-up.made', { occurrence: invitation.occurrenceId });
  });
}

/** A sign-up as whoever made it sees it, by the link in its confirmation. */
export type OwnSignUp =
  | { state: 'expired' | 'altered' | 'gone' }
  | { state: 'good'; id: number; occurrenceId: number; name: string; title: string; over: boolean };

/** Opens the link in a confirmation. */
export async function openSignUp(db: Database, secret: string, token: string): Promise<OwnSignUp> {
  const nowMs = await databaseNow(db);
  const reading = readLink(secret, token, 'sign-up', nowMs);
  if (reading.state !== 'good') return reading;
  const { occurrenceId, personId: id } = reading.claim;
  const [signUp, occurrence] = await Promise.all([signUpById(db, id), occurrenceById(db, occurrenceId)]);
  const version = occurrence && (await versionById(db, occurrence.versionId));
  if (!version?.event || signUp?.occurrenceId !== occurrenceId) return { state: 'gone' };
  return {
    state: 'good',
    id,
    occurrenceId,
    name: signUp.name,
    title: version.title,
    over: eventSpan(version.event).endMs < nowMs,
  };
}

/** Takes a name off. Doing it again is doing it once. */
export async function takeNameOff(
  db: Database,
  signUp: Extract<OwnSignUp, { state: 'good' }>,
): Promise<void> {
  await transact(db, async (trx) => {
    if (await deleteSignUp(trx, signUp.id))
      await emit(trx, 'sign-up.withdrawn', { occurrence: signUp.occurrenceId });
  });
}

/** A reader's own link to pass on. */
export async function passOnLink(
  db: Database,
  secret: string,
  publicUrl: string,
  personId: number,
  occurrenceId: number,
): Promise<string> {
  return `${publicUrl}/m/event/${signLink(secret, { purpose: 'event', occurrenceId, personId }, await databaseNow(db))}`;
}

/** The event of an occurrence as an iCalendar file, for whoever got it. */
export async function calendarOf(db: Database, occurrenceId: number, host: string): Promise<string | null> {
  const occurrence = await occurrenceById(db, occurrenceId);
  const version = occurrence && (await versionById(db, occurrence.versionId));
  if (!occurrence || !version?.event) return null;
  return eventCalendar(
    version.event,
    version.title,
    version.excerpt,
    eventUid(version.event, occurrence.announcementId, host),
  );
}

/** Who signed up, and under whose link, as a CSV. */
export async function signUpsCsv(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): Promise<ReadableStream<Uint8Array>> {
  await openOccurrence(db, actor, occurrenceId);
  async function* lines(): AsyncGenerator<string[][]> {
    yield (await allSignUps(db, occurrenceId)).map((row) => [
      row.name,
      row.mail,
      row.sharedBy,
      new Date(row.atMs).toISOString(),
      row.failed ?? (row.sentMs === null ? '' : new Date(row.sentMs).toISOString()),
    ]);
  }
  return csvStream(['Name', 'Mail', 'Link of', 'Signed up (UTC)', 'Confirmed (UTC)'], lines());
}
