import Papa from 'papaparse';

/**
 * What a spreadsheet may run as a formula: one of its first signs, also in full width, also behind blanks and characters that
 * show nothing.
 */
const FORMULA = /^[\s\p{Cf}\p{Cc}]*[=+\-@\uFF1D\uFF0B\uFF0D\uFF20]/u;

const unparsed = (lines: (string | number)[][]): string => Papa.unparse(lines, { escapeFormulae: FORMULA });

/**
 * A CSV file (RFC 4180, UTF-8 with a byte order mark so that spreadsheets read names right), page after page. Cells
 * that a spreadsheet would run as a formula are made plain text.
 */
export function csvStream(
  columns: readonly string[],
  pages: AsyncGenerator<(string | number)[][]>,
): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let begun = false;
  return new ReadableStream({
    async pull(controller) {
      if (!begun) controller.enqueue(encoder.encode(`\ufeff${unparsed([[...columns]])}\r\n`));
      begun = true;
      const page = await pages.next();
      if (page.done) {
        controller.close();
        return;
      }
      if (page.value.length > 0) controller.enqueue(encoder.encode(`${unparsed(page.value)}\r\n`));
    },
    async cancel() {
      await pages.return(undefined);
    },
  });
}

/** A CSV as a download. */
export const csvResponse = (name: string, body: ReadableStream<Uint8Array>): Response =>
  new Response(body, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
