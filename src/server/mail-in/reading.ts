import { createHash } from 'node:crypto';
import { simpleParser } from 'mailparser';
import type { MailHeaders } from '../../core/mail-in/headers.ts';

/** A mail as it came in (RFC 5322, 2045). */
export interface ReadMail {
  headers: MailHeaders;
  /** The one address in From, in small letters; empty where there is none or several. */
  from: string;
  fromName: string;
  subject: string;
  /** With its angle brackets; empty where it has none. */
  messageId: string;
  /** What sets it apart: its Message-ID, or where it has none a sum of what it says. */
  id: string;
  /** As plain text; made of the HTML where it has no plain text. */
  text: string;
  /** Nothing where it is plain text only. */
  html: string | undefined;
  files: { name: string; mime: string; bytes: Buffer; inline: boolean }[];
  /** The part of a delivery report that programs read; nothing where it is none. */
  report: string | undefined;
}

/** Most parts of a mail that are looked at. */
const MOST_PARTS = 40;

/** Reads a mail. What is not understood in it is left out; nothing in it is fetched. */
export async function readMail(raw: Buffer): Promise<ReadMail> {
  const parsed = await simpleParser(raw, {
    skipImageLinks: true,
    keepDeliveryStatus: true,
    maxHtmlLengthToParse: 2_000_000,
  });
  const senders = parsed.from?.value ?? [];
  const [sender] = senders;
  const parts = parsed.attachments.slice(0, MOST_PARTS);
  return {
    headers: parsed.headerLines.map(({ key, line }) => ({
      name: key,
      value: line
        .slice(line.indexOf(':') + 1)
        .replace(/\r?\n[ \t]+/g, ' ')
        .trim(),
    })),
    from: senders.length === 1 ? (sender?.address ?? '').toLowerCase() : '',
    fromName: sender?.name ?? '',
    subject: (parsed.subject ?? '').replace(/\s+/g, ' ').trim(),
    messageId: parsed.messageId ?? '',
    id:
      parsed.messageId ??
      createHash('sha256')
        .update(
          `${sender?.address ?? ''}\n${parsed.subject ?? ''}\n${parsed.date?.toISOString() ?? ''}\n${parsed.text ?? ''}`,
        )
        .digest('base64url'),
    text: parsed.text ?? '',
    html: typeof parsed.html === 'string' ? parsed.html : undefined,
    files: parts
      .filter(({ contentType }) => !contentType.startsWith('message/delivery-status'))
      .map(({ filename, contentType, content, related }) => ({
        name: filename ?? 'file',
        mime: contentType,
        bytes: content,
        inline: related === true,
      })),
    report: parts
      .find(({ contentType }) => contentType.startsWith('message/delivery-status'))
      ?.content.toString('utf8'),
  };
}
