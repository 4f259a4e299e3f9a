import { createHash, randomBytes } from 'node:crypto';

/** What is kept of the key in a secret address: its SHA-256. */
export const hashedKey = (key: string): Buffer => createHash('sha256').update(key).digest();

/** A key for a secret address, of 192 bits. */
export const newFeedKeyText = (): string => randomBytes(24).toString('base64url');
