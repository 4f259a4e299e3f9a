import { createHmac, timingSafeEqual } from 'node:crypto';

/** The part of a letter's link that only who has the secret can write: 192 bits of HMAC-SHA-256, base64url. */
const sign = (secret: string, letterId: number): string =>
  createHmac('sha256', `access letter ${secret}`)
    .update(String(letterId))
    .digest()
    .subarray(0, 24)
    .toString('base64url');

/** The token of a letter's link. */
export const accessToken = (secret: string, letterId: number): string =>
  `${letterId.toString(36)}.${sign(secret, letterId)}`;

/** The letter a token stands for; null where it is not whole or was altered. */
export function readAccessToken(secret: string, token: string): number | null {
  const [written = '', signature = '', ...rest] = token.split('.');
  if (rest.length > 0 || !/^[0-9a-z]{1,10}$/.test(written)) return null;
  const id = Number.parseInt(written, 36);
  const expected = Buffer.from(sign(secret, id));
  const given = Buffer.from(signature);
  return given.length === expected.length && timingSafeEqual(given, expected) ? id : null;
}
