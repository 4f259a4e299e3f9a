import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';

const keyOf = (secret: string): Buffer =>
  createHash('sha256').update('source secrets\n').update(secret).digest();

/** Seals a secret with AES-256-GCM (NIST SP 800-38D): it can be used and not read again. */
export function seal(secret: string, text: string): Buffer {
  const iv = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', keyOf(secret), iv);
  const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return Buffer.concat([iv, cipher.getAuthTag(), sealed]);
}

export function unseal(secret: string, sealed: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', keyOf(secret), sealed.subarray(0, 12));
  decipher.setAuthTag(sealed.subarray(12, 28));
  return Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()]).toString('utf8');
}
