import { createHmac, randomInt } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import QRCode from 'qrcode';
import { readRecovery, RECOVERY_CODES } from '../../core/access/secondFactor.ts';

const STEP_S = 30;
/** Codes of one step before and after are taken too, for clocks that differ (RFC 6238, 5.2). */
const STEPS_AROUND = 1;

const made = (secret: string, issuer = '', label = ''): TOTP =>
  new TOTP({
    issuer,
    label,
    algorithm: 'SHA1',
    digits: 6,
    period: STEP_S,
    secret: Secret.fromBase32(secret),
  });

/** A new secret for codes of RFC 6238: 160 bits in base32, as RFC 4226 recommends. */
export const newCodeSecret = (): string => new Secret({ size: 20 }).base32;

/** What an app for codes reads from a screen: the secret with whose and what for it is, as a picture in a data address. */
export const pictureOf = (secret: string, issuer: string, label: string): Promise<string> =>
  QRCode.toDataURL(made(secret, issuer, label).toString(), { margin: 2, width: 220 });

/**
 * The step of 30 seconds since 1970 that a code is of; null where it is none of now.
 *
 * @param typed what was typed; blanks in it do not count
 */
export function stepOfCode(secret: string, typed: string, nowMs: number): number | null {
  const token = typed.replace(/\s/g, '');
  if (!/^\d{6}$/.test(token)) return null;
  const delta = made(secret).validate({ token, window: STEPS_AROUND, timestamp: nowMs });
  return delta === null ? null : Math.floor(nowMs / 1000 / STEP_S) + delta;
}

const LETTERS = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';

/** New recovery codes of 50 bits each. */
export const newRecoveryCodes = (): string[] =>
  Array.from({ length: RECOVERY_CODES }, () =>
    Array.from({ length: 10 }, () => LETTERS[randomInt(LETTERS.length)]).join(''),
  );

/** What is kept of a recovery code: who has the database alone cannot guess it from that. */
export const recoveryHash = (secret: string, typed: string): Buffer =>
  createHmac('sha256', `recovery code ${secret}`).update(readRecovery(typed)).digest();
