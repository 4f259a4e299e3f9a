import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { insertCalls, type HookInRow, type NewCall } from './inStore.ts';

/** Notes a call in the log of its way in. */
export const note = (db: Database, hook: HookInRow, call: NewCall): Promise<void> =>
  transact(db, (trx) => noteWith(trx, hook, [call]));

/** Notes calls in a transaction that does something with them. */
export async function noteWith(trx: Database, hook: HookInRow, calls: readonly NewCall[]): Promise<void> {
  await insertCalls(trx, hook.id, calls);
  await emit(trx, 'hook.called', { hook: hook.id });
}
