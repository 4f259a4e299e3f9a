import type { Database } from './connection.ts';

const reads = new WeakMap<Database, Map<string, Promise<unknown>>>();

/**
 * Reads something once in a transaction that does many small things by it, as following up events does: the first who asks reads
 * it, and the others have what they have read. Outside a transaction everybody reads for themselves.
 *
 * @param key what is read; nothing in the transaction may change it
 */
export function onceIn<T>(trx: Database, key: string, read: () => Promise<T>): Promise<T> {
  if (!trx.isTransaction) return read();
  const known = reads.get(trx) ?? new Map<string, Promise<unknown>>();
  reads.set(trx, known);
  const found = known.get(key) ?? read();
  known.set(key, found);
  return found as Promise<T>;
}
