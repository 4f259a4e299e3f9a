import { createHash } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import { MOODS, type Mood } from '../mail/mood.ts';
import { moodLine, page } from '../page.ts';

const SLOW_MS = 4_000;
const MOST_BYTES = 100_000;

interface Row {
  id: string;
  values: Record<string, string>;
  /** The change it was made or changed by: they are counted. */
  change: number;
  gone: boolean;
}
interface Table {
  columns: string[];
  rows: Row[];
}

/** What the service begins with: consignments of seed between stations. */
const CONSIGNMENTS: [string, Record<string, string>][] = [
  ['C-1041', { from: 'Sant Elm', to: 'Mallee Reach', state: 'packed', due: '2026-12-03', packets: '48' }],
  ['C-1042', { from: 'Cinder Bay', to: 'Sant Elm', state: 'on the way', due: '2026-12-01', packets: '12' }],
  [
    'C-1043',
    { from: 'Kestrel Gorge', to: 'Oru Terrace', state: 'asked for', due: '2026-12-09', packets: '96' },
  ],
  ['C-1044', { from: 'Juniper Flat', to: 'Marrow Fen', state: 'arrived', due: '2026-11-26', packets: '30' }],
];

async function formOf(request: IncomingMessage): Promise<URLSearchParams> {
  const parts: Buffer[] = [];
  let bytes = 0;
  for await (const part of request as AsyncIterable<Buffer>) {
    bytes += part.byteLength;
    if (bytes > MOST_BYTES) break;
    parts.push(part);
  }
  return new URLSearchParams(Buffer.concat(parts).toString('utf8'));
}

/**
 * A service that keeps records: `GET /tables/consignments` answers all of them, with an ETag; with `?after=3` what changed after the
 * third change, also what is gone. Its page changes rows by hand, and it can be told to be slow, to fail, or to be down.
 */
export async function startRecordsStandIn(port: number): Promise<{ stop: () => Promise<void> }> {
  let mood: Mood = 'well';
  let changes = 0;
  const table: Table = { columns: ['from', 'to', 'state', 'due', 'packets'], rows: [] };
  const put = (id: string, values: Record<string, string>): void => {
    const row = table.rows.find((each) => each.id === id);
    changes++;
    if (row) Object.assign(row, { values: { ...row.values, ...values }, change: changes, gone: false });
    else table.rows.push({ id, values, change: changes, gone: false });
  };
  for (const [id, values] of CONSIGNMENTS) put(id, values);

  async function answer(
    request: IncomingMessage,
    response: ServerResponse,
    after: string | null,
  ): Promise<void> {
    if (mood === 'slow') await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
    if (mood === 'busy' || mood === 'refusing') {
      response.writeHead(mood === 'busy' ? 503 : 403).end();
      return;
    }
    const wanted = table.rows.filter((row) => (after === null ? !row.gone : row.change > Number(after)));
    const body = JSON.stringify({
      position: changes,
      consignments: wanted.map(({ id, values, gone }) => ({
        id,
        ...values,
        packets: Number(values.packets ?? 0),
        ...(after === null ? {} : { gone }),
      })),
    });
    const etag = `"${createHash('sha256').update(body).digest('base64url').slice(0, 20)}"`;
    if (request.headers['if-none-match'] === etag) response.writeHead(304, { etag }).end();
    else response.writeHead(200, { 'content-type': 'application/json', etag }).end(body);
  }

  const field = (form: string, name: string, value: string): string =>
    `<td><input form="${form}" name="${name}" value="${escapeHtml(value)}" aria-label="${name}" size="12"></td>`;
  const fields = (form: string, values: Record<string, string>): string =>
    table.columns.map((name) => field(form, name, values[name] ?? '')).join('');
  const line = ({ id, values }: Row, at: number): string =>
    `<tr><td>${escapeHtml(id)}</td>${fields(`row${at}`, values)}<td><form id="row${at}" method="post" action="/rows">
<input type="hidden" name="id" value="${escapeHtml(id)}"><button>Change</button> <button name="gone" value="yes">Take out</button></form></td></tr>`;
  const shown = (): string =>
    page(
      'Records',
      `<h1>Consignments of seed</h1><p>A stand-in service that keeps records. It ${moodLine(mood, {
        well: 'answers',
        slow: 'is slow',
        busy: 'says "later" (503)',
        refusing: 'refuses (403)',
        down: 'is down',
      })}.</p><p>All of them: <code>/tables/consignments</code>; what changed after a position:
<code>/tables/consignments?after=${changes}</code></p>
<table><thead><tr><th>Number</th>${table.columns.map((name) => `<th>${name}</th>`).join('')}<th></th></tr></thead><tbody>${table.rows
        .filter((row) => !row.gone)
        .map(line)
        .join(
          '',
        )}<tr><td><input form="new" name="id" aria-label="number" size="8" required></td>${fields('new', {})}
<td><form id="new" method="post" action="/rows"><button>Add</button></form></td></tr></tbody></table>`,
    );

  async function change(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const form = await formOf(request);
    const id = (form.get('id') ?? '').trim();
    const row = table.rows.find((each) => each.id === id);
    if (form.get('gone') === 'yes' && row) {
      changes++;
      Object.assign(row, { gone: true, change: changes });
    } else if (id !== '')
      put(id, Object.fromEntries(table.columns.map((name) => [name, (form.get(name) ?? '').trim()])));
    response.writeHead(303, { location: '/' }).end();
  }

  const server = createServer((request, response) => {
    // Whoever asked is gone before all was said.
    const gone = (): unknown => response.destroy();
    const url = new URL(request.url ?? '/', `http://localhost:${port}`);
    if (request.method === 'POST' && url.pathname.startsWith('/mood/')) {
      mood = MOODS.find((each) => url.pathname === `/mood/${each}`) ?? mood;
      response.writeHead(303, { location: '/' }).end();
    } else if (request.method === 'POST' && url.pathname === '/rows') change(request, response).catch(gone);
    else if (url.pathname === '/tables/consignments') {
      if (mood === 'down') request.socket.destroy();
      else answer(request, response, url.searchParams.get('after')).catch(gone);
    } else response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(shown());
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return {
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
