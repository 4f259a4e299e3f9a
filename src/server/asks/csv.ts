import type { Session } from '../accounts/service.ts';
import type { Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { wallAt } from '../../core/timing/wallTime.ts';
import { wholeRoll } from './service.ts';

const COLUMNS = [
  'Name',
  'Station',
  'Mail',
  'Answered',
  'Answered (UTC)',
  'Answered (your time)',
  'Via',
  'Opened (UTC)',
  'Earlier text acknowledged (UTC)',
  'Still here',
  'Still in the audience',
];

const utc = (epochMs: number | null): string => (epochMs === null ? '' : new Date(epochMs).toISOString());

/** A roll as a CSV. */
export function rollCsv(db: Database, session: Session, occurrenceId: number): ReadableStream<Uint8Array> {
  async function* lines(): AsyncGenerator<string[][]> {
    for await (const page of wholeRoll(db, session.actor, occurrenceId))
      yield page.map((row) => [
        row.name,
        row.station ?? '',
        row.mail ?? '',
        row.answered === 1 ? 'yes' : 'not yet',
        utc(row.answeredMs),
        row.answeredMs === null ? '' : wallAt(row.answeredMs, session.zone).replace('T', ' '),
        row.via ?? '',
        utc(row.openedMs),
        utc(row.earlierMs),
        row.left === 1 ? 'left' : 'yes',
        row.gone === 1 ? 'no' : 'yes',
      ]);
  }
  return csvStream(COLUMNS, lines());
}
