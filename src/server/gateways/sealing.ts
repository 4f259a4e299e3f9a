import { randomBytes } from 'node:crypto';
import { seal } from '../sealing.ts';

/** A new secret for signing, as Standard Webhooks writes it: `whsec_` and 24 random bytes in base64. */
export const newSecret = (): string => `whsec_${randomBytes(24).toString('base64')}`;

/** A new secret, and it sealed for keeping. */
export function freshSecret(sealWith: string): { secret: string; sealed: Buffer } {
  const secret = newSecret();
  return { secret, sealed: seal(sealWith, secret) };
}
