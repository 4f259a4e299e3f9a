import { createHmac, timingSafeEqual } from 'node:crypto';

/**
 * Whom mail to an address of ours is for: an answer of a person to a post, a report of what came back from a person (0 where it
 * was of no send), or a way in.
 */
export type MailAddress =
  | { kind: 'answer'; personId: number; postId: number }
  | { kind: 'back'; personId: number; occurrenceId: number }
  | { kind: 'way in'; key: string };

/** Mail systems keep addresses in small letters as they like, so that nothing in one may depend on them (RFC 5321). */
const mac = (secret: string, text: string): string =>
  createHmac('sha256', secret).update(`mail address\n${text}`).digest('hex').slice(0, 24);

function signed(secret: string, domain: string, letter: 'answer' | 'back', of: number, id: number): string {
  const text = `${letter}-${of.toString(36)}-${id.toString(36)}`;
  return `${text}-${mac(secret, text)}@${domain}`;
}

/** The address at which a person answers a post: nobody else can make it. */
export const answerAddress = (secret: string, domain: string, personId: number, postId: number): string =>
  signed(secret, domain, 'answer', personId, postId);

/** The address that what comes back of a mail to a person goes to (RFC 5321 MAIL FROM). */
export const backAddress = (secret: string, domain: string, personId: number, occurrenceId: number): string =>
  signed(secret, domain, 'back', personId, occurrenceId);

export const wayInAddress = (key: string, domain: string): string => `post-${key}@${domain}`;

/** Whom an address is for; nothing where it is not one of ours, or was altered. */
export function readMailAddress(secret: string, domain: string, address: string): MailAddress | undefined {
  const [local = '', at = '', ...more] = address.toLowerCase().split('@');
  if (at !== domain || more.length > 0) return undefined;
  const way = /^post-([0-9a-f]{20})$/.exec(local)?.[1];
  if (way !== undefined) return { kind: 'way in', key: way };
  const [, text = '', kind, of = '', id = '', given = ''] =
    /^((answer|back)-([0-9a-z]{1,11})-([0-9a-z]{1,11}))-([0-9a-f]{24})$/.exec(local) ?? [];
  if (kind === undefined || !timingSafeEqual(Buffer.from(mac(secret, text)), Buffer.from(given)))
    return undefined;
  const personId = Number.parseInt(of, 36);
  const subject = Number.parseInt(id, 36);
  return kind === 'answer'
    ? { kind, personId, postId: subject }
    : { kind: 'back', personId, occurrenceId: subject };
}
