import { bundleTitle } from '../../core/bundling/bundling.ts';
import { layOutBundle } from '../mail/bundle.tsx';
import type { FilledLetter } from '../mail/letter.tsx';
import type { Mail, MailFile } from '../mail/transport.ts';
import { MAIL_FILES_BYTES } from './layingOut.ts';
import type { ClaimedMail } from './mailStore.ts';

/** One announcement's mail to one reader, and what of it stands in a bundle. */
export interface WrittenPart {
  mail: Mail;
  filled: FilledLetter;
  asks: boolean;
}

/** Written mail, gathered by the bundle it goes in; what goes by itself is alone. In the order they were claimed. */
export function bundlesIn(single: readonly [ClaimedMail, WrittenPart][]): [ClaimedMail, WrittenPart][][] {
  const bundles = new Map<string, [ClaimedMail, WrittenPart][]>();
  for (const part of single) {
    const [{ occurrenceId, personId, bundleMs }] = part;
    const key = bundleMs === null ? `${occurrenceId}/${personId}` : `bundle ${bundleMs}/${personId}`;
    bundles.set(key, [...(bundles.get(key) ?? []), part]);
  }
  return [...bundles.values()].map((parts) => parts.sort(([a], [b]) => a.occurrenceId - b.occurrenceId));
}

/** The files, in order, that fit into so many bytes together. */
function filesWithin(files: readonly MailFile[], most: number): MailFile[] {
  let left = most;
  return files.filter((file) => {
    if (file.bytes.length > left) return false;
    left -= file.bytes.length;
    return true;
  });
}

/** Makes one mail of several, and keeps the frames of the last of them. */
export class Bundles {
  readonly #laidOut = new Map<string, { contents: string; fill: Awaited<ReturnType<typeof layOutBundle>> }>();
  readonly #publicUrl: string;

  constructor(publicUrl: string) {
    this.#publicUrl = publicUrl;
  }

  /** One mail of several, each with its own text, buttons and links. */
  async mailOf(parts: readonly [ClaimedMail, WrittenPart][], organisationName: string): Promise<Mail> {
    const publicUrl = this.#publicUrl;
    const [first] = parts;
    if (!first) throw new Error('A bundle of nothing');
    const [row, { mail }] = first;
    const key = parts.map(([each]) => each.occurrenceId).join(',');
    const frame = {
      organisation: organisationName,
      parts: parts.map(([, part]) => ({ title: part.mail.subject, asks: part.asks })),
      settingsUrl: `${publicUrl}/settings#bundling`,
    };
    const known = this.#laidOut.get(key);
    // What was corrected meanwhile may have another title.
    const contents = JSON.stringify(frame);
    const laidOut = known?.contents === contents ? known.fill : await layOutBundle(frame);
    this.#laidOut.set(key, { contents, fill: laidOut });
    const oldest = this.#laidOut.keys().next();
    if (this.#laidOut.size > 50 && !oldest.done) this.#laidOut.delete(oldest.value);
    const host = new URL(publicUrl).hostname;
    const calendars = parts.flatMap(([, part]) => part.mail.calendar ?? []);
    return {
      ...mail,
      messageId: `<bundle.${row.bundleMs}.${row.occurrenceId}.${parts.length}.${row.personId}@${host}>`,
      fromName: organisationName,
      subject: bundleTitle(frame.parts.map((part) => part.title)),
      ...laidOut(parts.map(([, part]) => part.filled)),
      unsubscribeUrl: parts.map(([, part]) => part.mail.unsubscribeUrl).find((url) => url !== null) ?? null,
      calendar: null,
      files: [
        ...calendars.map((calendar, i) => ({
          name: `event-${i + 1}.ics`,
          mime: 'text/calendar; charset=utf-8; method=PUBLISH',
          bytes: Buffer.from(calendar),
        })),
        ...filesWithin(
          parts.flatMap(([, part]) => part.mail.files ?? []),
          MAIL_FILES_BYTES,
        ),
      ],
    };
  }
}
