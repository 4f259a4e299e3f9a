import Papa from 'papaparse';
import type { Session } from '../accounts/service.ts';
import type { Database } from '../database/connection.ts';
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

/**
 * A roll as CSV (RFC 4180, UTF-8 with a byte order mark so that spreadsheets read names right), page after page.
 * Cells that a spreadsheet would run as a formula are made plain text.
 */
export function rollCsv(db: Database, session: Session, occurrenceId: number): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  const pages = wholeRoll(db, session.actor, occurrenceId);
  let begun = false;
  return new ReadableStream({
    async pull(controller) {
      if (!begun) controller.enqueue(encoder.encode(`\ufeff${Papa.unparse([COLUMNS])}\r\n`));
      begun = true;
      const page = await pages.next();
      if (page.done) {
        controller.close();
        return;
      }
      const lines = page.value.map((row) => [
        row.name,
        row.station ?? '',
        row.mail ?? '',
        row.answeredMs === null ? 'not yet' : 'acknowledged',
        row.answeredMs === null ? '' : new Date(row.answeredMs).toISOString(),
        row.answeredMs === null ? '' : wallAt(row.answeredMs, session.zone).replace('T', ' '),
        row.via ?? '',
        row.left === 1 ? 'left' : 'yes',
      ]);
      if (lines.length > 0)
        controller.enqueue(encoder.encode(`${Papa.unparse(lines, { escapeFormulae: true })}\r\n`));
    },
  });
}
