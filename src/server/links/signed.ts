import { createHmac, timingSafeEqual } from 'node:crypto';

/** What a link in a mail may do for its reader without signing in. */
export type LinkPurpose =
  'acknowledge' | 'answer' | 'unsubscribe' | 'event' | 'notices' | 'board' | 'coming' | 'sign-up';

export interface LinkClaim {
  purpose: LinkPurpose;
  occurrenceId: number;
  /** Of a `sign-up`, its own id: whoever signs up is nobody of the organisation. */
  personId: number;
}

const LETTERS: Record<LinkPurpose, string> = {
  acknowledge: 'a',
  answer: 'q',
  unsubscribe: 'u',
  event: 'e',
  notices: 'n',
  board: 'b',
  coming: 'c',
  'sign-up': 's',
};

/** How long links in mail hold, in days. */
export const LINK_DAYS = 90;

const mac = (secret: string, text: string): Buffer =>
  createHmac('sha256', secret).update(text).digest().subarray(0, 18);

/**
 * A token for a link: purpose, occurrence, person and last day, signed with HMAC-SHA-256 cut to 144 bits. It can
 * be read by anybody and made by nobody without the secret.
 */
export function signLink(secret: string, claim: LinkClaim, nowMs: number): string {
  const lastDay = Math.floor(nowMs / 86_400_000) + LINK_DAYS;
  const text = [
    LETTERS[claim.purpose],
    claim.occurrenceId.toString(36),
    claim.personId.toString(36),
    lastDay.toString(36),
  ].join('-');
  return `${text}-${mac(secret, text).toString('base64url')}`;
}

export type LinkReading = { state: 'good'; claim: LinkClaim } | { state: 'expired' } | { state: 'altered' };

/** What a token of one purpose claims and until when it holds; an altered one, or one made for another purpose, says nothing. */
export function verifyLink(
  secret: string,
  token: string,
  purpose: LinkPurpose,
): { claim: LinkClaim; untilMs: number } | undefined {
  const match = /^([a-z])-([0-9a-z]+)-([0-9a-z]+)-([0-9a-z]+)-([A-Za-z0-9_-]{24})$/.exec(token);
  if (!match) return undefined;
  const [, letter, occurrence = '', person = '', day = '', signature = ''] = match;
  const text = token.slice(0, token.length - signature.length - 1);
  const given = Buffer.from(signature, 'base64url');
  const expected = mac(secret, text);
  if (given.length !== expected.length || !timingSafeEqual(given, expected) || letter !== LETTERS[purpose])
    return undefined;
  return {
    claim: { purpose, occurrenceId: Number.parseInt(occurrence, 36), personId: Number.parseInt(person, 36) },
    untilMs: (Number.parseInt(day, 36) + 1) * 86_400_000,
  };
}

/** Reads a token of one purpose, as `verifyLink` does, at an instant in milliseconds since 1970. */
export function readLink(secret: string, token: string, purpose: LinkPurpose, nowMs: number): LinkReading {
  const verified = verifyLink(secret, token, purpose);
  if (!verified) return { state: 'altered' };
  return nowMs < verified.untilMs ? { state: 'good', claim: verified.claim } : { state: 'expired' };
}
