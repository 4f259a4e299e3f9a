import { readdir } from 'node:fs/promises';
import { createServer, type RequestListener } from 'node:http';
import { dirname, join } from 'node:path';
import { setTimeout as rest } from 'node:timers/promises';
import { pathToFileURL } from 'node:url';
import { constants } from 'node:zlib';
import compression from 'compression';
import { collectDefaultMetrics, Registry } from 'prom-client';
import proxyaddr from 'proxy-addr';
import sirv from 'sirv';
import { connect } from '../src/server/database/connection.ts';
import { logger } from '../src/server/log.ts';
import { Heartbeat } from '../src/server/operating/heartbeat.ts';
import { readSettings } from '../src/server/settings.ts';
import { surviveErrors } from '../src/server/surviveErrors.ts';

/**
 * Runs a built web application: assets as they were compressed when it was built, pages compressed as they are sent, the
 * address a request came from settled before anything looks at it. It stops cleanly: requests under way are finished.
 */
const entry = process.argv[2];
if (entry === undefined) throw new Error('Name the built entry: scripts/web.ts <dist>/server/entry.mjs');
const settings = readSettings(process.env);
const log = logger('web', settings.LOG_LEVEL);
surviveErrors(log);
const { handler: pages } = (await import(pathToFileURL(entry).href)) as { handler: RequestListener };

const YEAR_S = 31_536_000;
/** Pages are compressed anew for each reader: with little work, they come out a tenth larger than with the most. */
const GZIP_LEVEL = 1;
const BROTLI_QUALITY = 2;
/** What it looks back on, in powers of two of bytes: most pages are no larger. */
const BROTLI_WINDOW = 17;
const LOADING_REST_MS = 2;
const assets = sirv(join(dirname(entry), '..', 'client'), {
  brotli: true,
  gzip: true,
  etag: true,
  setHeaders: (response, path) => {
    response.setHeader('x-content-type-options', 'nosniff');
    response.setHeader(
      'cache-control',
      path.startsWith('/_astro/') ? `public, max-age=${YEAR_S}, immutable` : 'public, max-age=600',
    );
  },
});
// A stream of live updates is sent as it comes: compressed it would be held back until there is enough of it.
const compress = compression({
  threshold: 800,
  level: GZIP_LEVEL,
  brotli: {
    params: {
      [constants.BROTLI_PARAM_QUALITY]: BROTLI_QUALITY,
      [constants.BROTLI_PARAM_LGWIN]: BROTLI_WINDOW,
    },
  },
  filter: (request, response) =>
    !String(response.getHeader('content-type') ?? '').startsWith('text/event-stream') &&
    compression.filter(request, response),
});

const trusted = proxyaddr.compile(settings.TRUSTED_PROXIES);
const http = createServer((request, response) => {
  // The address of the connection, unless proxies that the operator named say whom they speak for.
  const address = proxyaddr(request, trusted);
  request.headers['x-forwarded-for'] = address;
  if (!trusted(request.socket.remoteAddress ?? '', 0))
    for (const name of ['x-forwarded-proto', 'x-forwarded-host', 'x-forwarded-port'])
      Reflect.deleteProperty(request.headers, name);
  assets(request, response, () => {
    compress(request as never, response as never, () => {
      pages(request, response);
    });
  });
});
http.once('error', (error) => {
  log.fatal({ err: error }, 'the port cannot be listened on');
  process.exit(1);
});
http.listen(Number(process.env.PORT ?? 4400), process.env.HOST ?? '127.0.0.1', () => {
  loadPages().catch((error: unknown) => log.error({ err: error }, 'the code of a page could not be loaded'));
});

/** Loads the code of every page, one after another beside what is asked: else the first who wants one waits for that. */
async function loadPages(): Promise<void> {
  const folder = join(dirname(entry ?? ''), 'pages');
  const files = await readdir(folder, { recursive: true });
  for (const file of files.filter((name) => name.endsWith('.mjs'))) {
    await import(pathToFileURL(join(folder, file)).href);
    await rest(LOADING_REST_MS);
  }
}

if (settings.WEB_METRICS_PORT > 0) {
  const registry = new Registry();
  // Among them how long the event loop is held up, and its 50th, 90th and 99th percentile.
  collectDefaultMetrics({ register: registry, prefix: 'clear_bell_web_' });
  createServer((request, response) => {
    if (request.url !== '/metrics') response.writeHead(404).end();
    else void registry.metrics().then((text) => response.setHeader('content-type', 'text/plain').end(text));
  }).listen(settings.WEB_METRICS_PORT, '127.0.0.1');
}

// A connection of its own: it also says so while those of the pages are all in use.
const db = connect(settings.DATABASE_URL, 1);
const heartbeat = new Heartbeat(db, 'web');
heartbeat.start();

const GRACE_MS = 2_000;
let stopping = false;
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    if (stopping) return;
    stopping = true;
    http.close();
    http.closeIdleConnections();
    setTimeout(() => process.exit(0), GRACE_MS).unref();
    const signedOff = heartbeat.stop();
    http.once('close', () => void signedOff.finally(() => process.exit(0)));
  });
