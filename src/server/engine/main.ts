import { createServer } from 'node:http';
import { connect } from '../database/connection.ts';
import { logger } from '../log.ts';
import { mailSigning, mailTransport } from '../mail/transport.ts';
import { EngineFigures } from '../metrics.ts';
import { readSettings } from '../settings.ts';
import { vapidKeys } from '../push/keys.ts';
import { pushTransport } from '../push/transport.ts';
import { surviveErrors } from '../surviveErrors.ts';
import { Engine } from './engine.ts';

const settings = readSettings(process.env);
const log = logger('engine', settings.LOG_LEVEL);
surviveErrors(log);
const db = connect(settings.DATABASE_URL, 14);
const figures = new EngineFigures();
const engine = new Engine(db, log, figures, {
  transport: mailTransport(
    settings.MAIL_URL,
    settings.MAIL_FROM,
    settings.MAIL_CONNECTIONS,
    mailSigning(settings),
  ),
  push: pushTransport(
    vapidKeys(settings.CLEAR_BELL_SECRET),
    `mailto:${settings.MAIL_FROM}`,
    settings.PUSH_STANDIN_URL ?? null,
  ),
  secret: settings.CLEAR_BELL_SECRET,
  publicUrl: settings.CLEAR_BELL_URL.replace(/\/$/, ''),
  connections: settings.MAIL_CONNECTIONS,
  bucketLeaseS: settings.ENGINE_LEASE_SECONDS,
  mailLeaseS: settings.ENGINE_LEASE_SECONDS * 2,
  inside: settings.LOOKUP_ORIGINS,
  mailDomain: settings.MAIL_IN_DOMAIN,
});
await engine.start();

const health = createServer((request, response) => {
  if (request.url === '/metrics')
    void figures.registry
      .metrics()
      .then((text) => response.setHeader('content-type', 'text/plain').end(text));
  else response.statusCode = request.url === '/healthz' ? 200 : 404;
  if (request.url !== '/metrics') response.end();
});
if (settings.ENGINE_PORT > 0) health.listen(settings.ENGINE_PORT, '127.0.0.1');

let stopping = false;
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    if (stopping) return;
    stopping = true;
    health.close();
    void engine
      .stop()
      .then(() => db.destroy())
      .then(() => process.exit(0));
  });
