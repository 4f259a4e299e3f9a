import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { fileName } from '../http/zip.ts';
import { everyRecord, requireTestable, type Looked } from './grid.ts';
import { requireSeeing } from './rights.ts';
import type { SheetRow } from './store.ts';

/** The records as JSON (RFC 8259): an array of objects whose members are called as the columns are; what is empty is left out. */
function jsonStream(sheet: SheetRow, pages: ReturnType<typeof everyRecord>): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let begun = false;
  return new ReadableStream({
    async pull(controller) {
      const page = await pages.next();
      if (page.done) {
        controller.enqueue(encoder.encode(begun ? '\n]\n' : '[]\n'));
        controller.close();
        return;
      }
      const lines = page.value.map(({ cells }) =>
        JSON.stringify(
          Object.fromEntries(
            sheet.columns.flatMap(({ id, name, kind }) => {
              const value = cells[id] ?? '';
              if (value === '') return [];
              const said = kind === 'number' ? Number(value) : kind === 'yes or no' ? value === 'yes' : value;
              return [[name, said]];
            }),
          ),
        ),
      );
      if (lines.length > 0)
        controller.enqueue(encoder.encode(`${begun ? ',\n' : '[\n'}${lines.join(',\n')}`));
      begun ||= lines.length > 0;
    },
    async cancel() {
      await pages.return(undefined);
    },
  });
}

/**
 * What a view of a sheet shows, as a file that can be brought in again: CSV (RFC 4180), with the columns that are shown, or JSON
 * (RFC 8259).
 *
 * @throws 403 for all but the desk; 404; 422 where what the view tests cannot be tested
 */
export async function sheetFile(
  db: Database,
  actor: Actor,
  sheetId: number,
  looked: Looked,
  as: 'csv' | 'json',
): Promise<Response> {
  const { sheet: found } = await requireSeeing(db, actor, sheetId);
  requireTestable(found, looked.view);
  const sheet = { ...found, columns: found.columns.filter(({ id }) => !looked.view.hidden.includes(id)) };
  // Conditions may test columns that are not shown.
  const pages = everyRecord(db, found, looked);
  async function* lines(): AsyncGenerator<string[][]> {
    for await (const page of pages)
      yield page.map(({ cells }) => sheet.columns.map(({ id }) => cells[id] ?? ''));
  }
  const body =
    as === 'json'
      ? jsonStream(sheet, pages)
      : csvStream(
          sheet.columns.map(({ name }) => name),
          lines(),
        );
  return new Response(body, {
    headers: {
      'content-type': as === 'json' ? 'application/json' : 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="${encodeURIComponent(fileName(found.name, 'records'))}.${as}"; filename*=UTF-8''${encodeURIComponent(fileName(found.name, 'records'))}.${as}`,
      'cache-control': 'no-store',
    },
  });
}
