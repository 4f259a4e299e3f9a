import { createHash, createHmac } from 'node:crypto';

/**
 * The key a ballot is kept under. Of a named poll, the voter's number. Of an anonymous one, made from voter and poll with
 * the installation's secret (HMAC-SHA-256, 128 bits): the same voter finds their ballot again to change it, and nobody
 * who has only the database, a file of it or an export can tell whose it is.
 */
export function ballotKey(
  secret: string,
  occurrenceId: number,
  personId: number,
  anonymous: boolean,
): Buffer {
  if (anonymous)
    return createHmac('sha256', secret).update(`ballot ${occurrenceId} ${personId}`).digest().subarray(0, 16);
  const key = Buffer.alloc(16);
  key.writeBigUInt64BE(BigInt(personId), 8);
  return key;
}

/** Options in an order of this reader's own, the same each time they look. */
export function shuffledFor<T extends { id: number }>(
  options: readonly T[],
  occurrenceId: number,
  personId: number,
): T[] {
  const at = ({ id }: T): string =>
    createHash('sha256').update(`${occurrenceId} ${personId} ${id}`).digest('hex');
  return [...options].sort((a, b) => (at(a) < at(b) ? -1 : 1));
}
