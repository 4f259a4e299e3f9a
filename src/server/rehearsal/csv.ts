import { wallAt } from '../../core/timing/wallTime.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { wholeRehearsal } from './service.ts';

const COLUMNS = ['Name', 'Station', 'Zone', 'Methods', 'Due (their time)', 'Due (UTC)', 'Why', 'Note'];

/** Everybody a draft would reach, as a CSV. */
export function rehearsalCsv(db: Database, actor: Actor, announcementId: number): ReadableStream<Uint8Array> {
  async function* lines(): AsyncGenerator<string[][]> {
    for await (const page of wholeRehearsal(db, actor, announcementId))
      yield page.map((person) => [
        person.name,
        person.station ?? '',
        person.zone,
        person.methods.join(' '),
        person.dueMs === null ? '' : wallAt(person.dueMs, person.zone).replace('T', ' '),
        person.dueMs === null ? '' : new Date(person.dueMs).toISOString(),
        person.reason,
        person.note ?? '',
      ]);
  }
  return csvStream(COLUMNS, lines());
}
