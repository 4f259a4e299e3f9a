import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Database } from '../../src/server/database/connection.ts';
import { readFollowedSheet } from '../../src/server/sheets/following/reading.ts';
import { followSource } from '../../src/server/sheets/following/service.ts';
import { sourceOfSheet } from '../../src/server/sheets/following/store.ts';
import { makeSheet } from '../../src/server/sheets/service.ts';
import { coordinator, one, seconds, timed } from './data.ts';
import { sized } from './size.ts';

const ROWS = sized(100_000);
const CHANGED = sized(1_000);
const SECRET = 'a secret that only the bench knows, 32 or more';

/** A record sheet that follows a large source: read first, with nothing changed, and with a hundredth changed. */
export async function following(db: Database): Promise<void> {
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id = ?", [coordinator.id]);
  let version = 1;
  const server = createServer((request, response) => {
    const etag = `"${version}"`;
    if (request.headers['if-none-match'] === etag) {
      response.writeHead(304).end();
      return;
    }
    const rows = Array.from({ length: ROWS }, (_, at) => ({
      id: at,
      from: `Station ${at % 40}`,
      state: at < CHANGED ? `state ${version}` : 'packed',
      packets: at % 90,
    }));
    response.writeHead(200, { etag }).end(JSON.stringify({ rows }));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const asking = { secret: SECRET, inside: [origin] };
  const columns = ['Number', 'From', 'State'].map((name, at) => ({
    id: `c${at + 1}`,
    name,
    kind: 'text' as const,
    unit: '',
    choices: [],
  }));
  const sheet = await makeSheet(db, coordinator, { name: 'Followed', purpose: '', columns, form: null });
  const source = {
    url: `${origin}/`,
    header: '',
    everyMinutes: 60,
    rows: '/rows',
    key: '/id',
    gone: '',
    after: '',
    columns: { c1: '/id', c2: '/from', c3: '/state' },
  };
  const first = await timed(() =>
    followSource(db, coordinator, sheet, { source, secret: '', revision: null }, asking),
  );
  const read = async (): Promise<void> => {
    const row = await sourceOfSheet(db, sheet);
    const trouble = row && (await readFollowedSheet(db, row, asking));
    if (trouble !== null) throw new Error(trouble ?? 'It follows nothing');
  };
  const same = await timed(read);
  version = 2;
  const changed = await timed(read);
  const events = await one<{ n: number }>(
    db,
    "SELECT COUNT(*) AS n FROM events WHERE kind = 'records.changed' AND subject = ?",
    [`sheet:${sheet}`],
  );
  await db.raw(
    'CREATE TABLE bare_records (id BIGINT AUTO_INCREMENT PRIMARY KEY, of VARCHAR(200) UNIQUE, cells JSON)',
  );
  const bare = await timed(async () => {
    for (let from = 0; from < ROWS; from += 500)
      await db.transaction(async (trx) => {
        for (let at = from; at < Math.min(ROWS, from + 500); at++)
          await trx('bare_records').insert({
            of: String(at),
            cells: JSON.stringify({ c1: String(at), c2: `Station ${at % 40}`, c3: 'packed' }),
          });
      });
  });
  server.close();
  console.log(
    `A source of ${ROWS} records read for the first time: ${seconds(first)}; as many bare inserts, 500 in a transaction, ${seconds(bare)}: ` +
      `${(first / bare).toFixed(1)} times. Asked again with nothing changed (304): ${Math.round(same)} ms. ` +
      `With ${CHANGED} changed: ${seconds(changed)}, each an event (${events.n} events in all)`,
  );
}
