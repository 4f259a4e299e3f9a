import type { Database } from '../database/connection.ts';
import { callBodies, hookInById } from './inStore.ts';
import { callValues } from './reading.ts';

/** What came in by a way in during a period and can still be read, as the values it brought; the latest, in order. */
export async function callsBetween(
  db: Database,
  hookId: number,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<{ id: number; atMs: number; values: Record<string, string> }[]> {
  const row = await hookInById(db, hookId);
  if (!row) return [];
  const found = await callBodies(db, hookId, fromMs, toMs, most);
  return found.reverse().flatMap(({ id, atMs, body }) => {
    try {
      const value = JSON.parse(body) as unknown;
      const data =
        typeof value === 'object' && value !== null && 'specversion' in value && 'data' in value
          ? value.data
          : value;
      return [{ id, atMs, values: callValues(row.hook, data) }];
    } catch {
      return [];
    }
  });
}
