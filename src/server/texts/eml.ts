import MailComposer from 'nodemailer/lib/mail-composer';
import type { Content } from '../../core/content/announcement.ts';
import { eventSpan } from '../../core/content/event.ts';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import { sectionsHtml } from '../../core/content/html.ts';
import type { Section } from '../../core/content/section.ts';
import { sectionsText } from '../../core/content/text.ts';
import { momentWords } from '../../core/timing/words.ts';
import type { Database } from '../database/connection.ts';
import { orNone } from '../problem.ts';
import { uploadAs } from '../uploads/serving.ts';

/** All that is attached to one text together is at most so many bytes; what is more is named in it. */
const MOST_ATTACHED = 25_000_000;

/** A text as it was said: by whom, when, and under which name it is known (RFC 5322, 3.6.4). */
export interface Said {
  content: Pick<Content, 'title' | 'importance' | 'button' | 'event'> & { sections: readonly Section[] };
  /** In whose name. */
  by: string;
  atMs: number;
  /** The part of its Message-ID before the @. */
  id: string;
  /** That of what it replies to. */
  repliesTo?: string;
}

const UPLOAD = /^\/files\/([\w-]{22})\/([^/?]+)/;

interface Attached {
  filename: string;
  contentType: string;
  content: Buffer;
  cid: string;
}

/** The uploads that a text names by their paths: images as they stand in a mail, files as they are. What is too large is left out. */
async function attachedOf(
  db: Database,
  paths: readonly string[],
  host: string,
): Promise<Map<string, Attached>> {
  const attached = new Map<string, Attached>();
  let left = MOST_ATTACHED;
  for (const path of paths) {
    const [, key = '', as = ''] = UPLOAD.exec(path) ?? [];
    const file = key === '' ? undefined : await orNone(uploadAs(db, key, decodeURIComponent(as)));
    // What is kept in parts is a video, or larger than a mail may be.
    if (!file || file.size !== null || file.bytes.length > left) continue;
    left -= file.bytes.length;
    attached.set(path, {
      filename: file.name ?? decodeURIComponent(as),
      contentType: file.mime,
      content: file.bytes,
      cid: `${key}.${attached.size}@${host}`,
    });
  }
  return attached;
}

/**
 * A text as a message of mail (RFC 5322, MIME): plain and HTML, with its images and attachments in it, so that it can be read
 * wherever mail is, without Clear Bell.
 *
 * @param from the address it is from, and the host of its Message-ID
 */
export async function emlOf(
  db: Database,
  said: Said,
  from: { address: string; host: string },
): Promise<Buffer> {
  const { content, by, atMs, id, repliesTo } = said;
  const html = (address: (path: string) => string): string =>
    sectionsHtml(content.sections, undefined, { kind: 'mail', publicUrl: '', address });
  const named = new Set<string>();
  html((path) => {
    named.add(path);
    return path;
  });
  const attached = await attachedOf(db, [...named], from.host);
  const body = html((path) => {
    const found = attached.get(path);
    return found ? `cid:${found.cid}` : path;
  });
  const { button, event } = content;
  const when =
    event === null ? '' : `When: ${momentWords(eventSpan(event).startMs, event.zone)} (${event.zone})`;
  const where = event === null || event.place.trim() === '' ? '' : `Where: ${event.place.trim()}`;
  const further = [when, where, button ? `${button.label}: ${button.url}` : ''].filter(Boolean);
  const mail = new MailComposer({
    from: { name: by, address: from.address },
    date: new Date(atMs),
    messageId: `<${id}@${from.host}>`,
    ...(repliesTo === undefined
      ? {}
      : { inReplyTo: `<${repliesTo}@${from.host}>`, references: `<${repliesTo}@${from.host}>` }),
    subject: content.title,
    ...(content.importance === 'routine' ? {} : { headers: { Importance: 'high' } }),
    text: [sectionsText(content.sections), ...further].filter(Boolean).join('\n\n'),
    html: `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${escapeHtml(content.title)}</title></head><body>${body}${further
      .map((line) => `<p>${escapeHtml(line)}</p>`)
      .join('')}</body></html>`,
    attachments: [...attached.values()],
  });
  return mail.compile().build();
}
