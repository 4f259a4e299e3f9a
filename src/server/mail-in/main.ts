import { AttemptLimit } from '../accounts/rateLimit.ts';
import { connect } from '../database/connection.ts';
import { logger } from '../log.ts';
import { readSettings } from '../settings.ts';
import { surviveErrors } from '../surviveErrors.ts';
import { Heartbeat } from '../operating/heartbeat.ts';
import { startMailIn } from './server.ts';

const settings = readSettings(process.env);
const log = logger('mail-in', settings.LOG_LEVEL);
surviveErrors(log);
const { MAIL_IN_DOMAIN: domain, MAIL_IN_AUTHSERV: server } = settings;
if (domain === undefined || server === '')
  throw new Error(
    'Mail is taken in where MAIL_IN_DOMAIN and MAIL_IN_AUTHSERV are set: the domain, and the name under which its mail server writes Authentication-Results.',
  );
const db = connect(settings.DATABASE_URL, 6);
const receiver = await startMailIn(
  {
    db,
    log,
    attempts: new AttemptLimit(settings.DATABASE_URL),
    secret: settings.CLEAR_BELL_SECRET,
    domain,
    server,
  },
  { port: settings.MAIL_IN_PORT, host: settings.MAIL_IN_HOST },
);
const heartbeat = new Heartbeat(db, 'mail-in');
heartbeat.start();
log.info({ port: settings.MAIL_IN_PORT }, 'taking mail');

let stopping = false;
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    if (stopping) return;
    stopping = true;
    void receiver
      .stop()
      .then(() => heartbeat.stop())
      .then(() => db.destroy())
      .then(() => process.exit(0));
  });
