import type { Content } from '../../core/content/announcement.ts';
import { eventSpan, type EventDetails } from '../../core/content/event.ts';
import { emptySection } from '../../core/content/section.ts';
import { byItselfWords } from '../../core/automation/words.ts';
import { mayUnsubscribe } from '../../core/plan/plan.ts';
import { versionById } from '../announcements/versionStore.ts';
import { letterAsk } from '../asks/kinds.ts';
import { saidByThemselves } from '../automations/runStore.ts';
import { eventCalendar, eventUid } from '../calendar/event.ts';
import type { Database } from '../database/connection.ts';
import { layOutLetter, type LaidOutLetter } from '../mail/letter.tsx';
import type { MailFile } from '../mail/transport.ts';
import { organisation } from '../people/store.ts';
import { mailedPicture } from '../senders/picture.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { bannerOf } from '../series/store.ts';
import { addressIn } from '../uploads/address.ts';
import { uploadByKey } from '../uploads/store.ts';

/** An attachment up to this size travels in the mail itself, as long as all of them together do not come to more than the second figure, in bytes. */
export const MAIL_FILE_BYTES = 200_000;
export const MAIL_FILES_BYTES = 500_000;

/** What of an announcement is the same in all its mails. */
export interface LaidOut {
  occurrence: Occurrence;
  letter: LaidOutLetter;
  /** The same for linked contacts, who are not asked for anything. */
  copy: LaidOutLetter;
  fromName: string;
  /** Of what an automation said: which it was, in words; otherwise empty. */
  byItself: string;
  stoppable: boolean;
  eventMs: number | null;
  calendar: string | null;
  /** The attachments that travel in the mail itself. */
  files: MailFile[];
}

/** The small attachments of a text, in order, as many as fit; the others are links in it. */
async function smallFiles(db: Database, content: Content): Promise<MailFile[]> {
  const files: MailFile[] = [];
  let left = MAIL_FILES_BYTES;
  for (const file of content.sections.flatMap((section) => section.files)) {
    if (file.bytes > Math.min(MAIL_FILE_BYTES, left)) continue;
    const upload = await uploadByKey(db, file.key);
    if (!upload) continue;
    files.push({ name: file.name, mime: upload.mime, bytes: upload.bytes });
    left -= upload.bytes.length;
  }
  return files;
}

/** What a chase says, with the text, the event and the button of what it follows up under it. */
async function withWhatItChases(db: Database, chase: Content, occurrenceId: number): Promise<Content> {
  const chased = await occurrenceById(db, occurrenceId);
  const version = chased && (await versionById(db, chased.versionId));
  if (!version) return chase;
  return {
    ...chase,
    event: version.event,
    button: version.button,
    sections: [...chase.sections, { ...emptySection('chased'), heading: version.title }, ...version.sections],
  };
}

const withoutDate = (event: EventDetails): EventDetails => {
  const alone = { ...event };
  delete alone.sessionDateId;
  return alone;
};

/** Lays out the mails of an occurrence, once for all its readers. */
export async function layOut(db: Database, publicUrl: string, occurrence: Occurrence): Promise<LaidOut> {
  const [version, home, said] = await Promise.all([
    versionById(db, occurrence.versionId),
    organisation(db),
    saidByThemselves(db, [occurrence.id]),
  ]);
  if (!version) throw new Error(`Occurrence ${occurrence.id} has no version to send`);
  const content =
    occurrence.chases === null ? version : await withWhatItChases(db, version, occurrence.chases);
  const automation = said.get(occurrence.id);
  const name = home?.name ?? 'Clear Bell';
  const stoppable = mayUnsubscribe(occurrence.importance, occurrence.asked);
  const frame = {
    content,
    organisation: name,
    ask: letterAsk(occurrence.asked),
    hasDeadline: occurrence.deadlineMs !== null,
    stoppable,
    banner: version.issue ? await bannerOf(db, version.issue.seriesId) : null,
    senderPicture: await mailedPicture(db, version.byline),
    publicUrl,
    address: addressIn('sent', occurrence.rollOf, 'mail'),
    bannerAddress: addressIn('series', version.issue?.seriesId ?? 0, 'mail'),
  };
  const letter = await layOutLetter(frame);
  return {
    occurrence,
    letter,
    // A linked contact answers nothing, and does not say whether they come.
    copy:
      occurrence.plan.contacts && (frame.ask || content.event?.sessionDateId !== undefined)
        ? await layOutLetter({
            ...frame,
            content: { ...content, event: content.event && withoutDate(content.event) },
            ask: null,
            stoppable: true,
          })
        : letter,
    fromName: version.byline ? `${version.byline}, ${name}` : name,
    byItself: automation ? byItselfWords(automation) : '',
    stoppable,
    eventMs: content.event ? eventSpan(content.event).startMs : null,
    calendar: content.event
      ? eventCalendar(
          content.event,
          content.title,
          version.excerpt,
          eventUid(content.event, occurrence.announcementId, new URL(publicUrl).hostname),
        )
      : null,
    files: await smallFiles(db, content),
  };
}
