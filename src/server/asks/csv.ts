import type { Session } from '../accounts/service.ts';
import type { Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { wallAt } from '../../core/timing/wallTime.ts';
import { wholeRoll } from './service.ts';

const COLUMNS = [
  'Name',
  'Station',
  'Mail',
  'Answer',
  'Acknowledged (UTC)',
  'Acknowledged (your time)',
  'Via',
  'Still here',
];

/** A roll as a CSV. */
export function rollCsv(db: Database, session: Session, occurrenceId: number): ReadableStream<Uint8Array> {
  async function* lines(): AsyncGenerator<string[][]> {
    for await (const page of wholeRoll(db, session.actor, occurrenceId))
      yield page.map((row) => [
        row.name,
        row.station ?? '',
        row.mail ?? '',
        row.answeredMs === null ? 'not yet' : 'acknowledged',
        row.answeredMs === null ? '' : new Date(row.answeredMs).toISOString(),
        row.answeredMs === null ? '' : wallAt(row.answeredMs, session.zone).replace('T', ' '),
        row.via ?? '',
        row.left === 1 ? 'left' : 'yes',
      ]);
  }
  return csvStream(COLUMNS, lines());
}
