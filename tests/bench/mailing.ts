import { spawn } from 'node:child_process';
import nodemailer from 'nodemailer';
import { freePort } from '../../scripts/house/ports.ts';
import { ROOT } from '../../scripts/house/bringUp.ts';
import { built } from '../../scripts/house/build.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { pino } from 'pino';
import { Engine } from '../../src/server/engine/engine.ts';
import { mailTransport } from '../../src/server/mail/transport.ts';
import { EngineFigures } from '../../src/server/metrics.ts';
import { dueAtInstant, median, now, one, seconds, send, timed, mustCome } from './data.ts';
import { times } from './size.ts';
import { benchBuild } from './web.ts';

const CONNECTIONS = 8;
const RUNS = times(3);

interface Caught {
  to: string;
  subject: string;
  html: string;
  text: string;
}

/** Mail of one send through the stand-in, beside a bare pooled nodemailer loop with letters of the same size to the same server. */
export async function mailing(db: Database): Promise<void> {
  const smtp = await freePort();
  const web = await freePort();
  const push = await freePort();
  const conditions = await freePort();
  const [program = '', ...args] = built(benchBuild(), 'stand-ins').command;
  const standIn = spawn(program, args, {
    cwd: ROOT,
    stdio: 'ignore',
    env: {
      ...process.env,
      SMTP_PORT: String(smtp),
      MAIL_IN_PORT: '1',
      MAILBOX_PORT: String(web),
      PUSH_PORT: String(push),
      CONDITIONS_PORT: String(conditions),
      RECEIVER_PORT: String(await freePort()),
      RECORDS_PORT: String(await freePort()),
      SIGN_IN_PORT: String(await freePort()),
      CLEAR_BELL_URL: 'http://localhost',
    },
  });
  const address = `http://127.0.0.1:${web}`;
  const empty = (): Promise<unknown> => fetch(`${address}/empty`, { method: 'POST', redirect: 'manual' });
  try {
    await mustCome(
      'the stand-in mail server',
      () =>
        fetch(address).then(
          (r) => r.ok,
          () => false,
        ),
      20_000,
    );
    const people = await rows<{ mail: string; name: string }>(
      db,
      'SELECT mail, name FROM people WHERE mail IS NOT NULL',
    );
    const ours: number[] = [];
    const bare: number[] = [];
    for (let run = 0; run <= RUNS; run++) {
      await empty();
      const engine = new Engine(db, pino({ level: 'silent' }), new EngineFigures(), {
        push: { send: () => Promise.resolve({ kind: 'taken' }) },
        transport: mailTransport(`smtp://127.0.0.1:${smtp}`, 'desk@bench.example', CONNECTIONS),
        secret: 'the bench needs a secret of 32 characters',
        publicUrl: 'http://bench.example',
        connections: CONNECTIONS,
        bucketLeaseS: 30,
        mailLeaseS: 60,
      });
      const occurrence = await send(db, { mail: true });
      await engine.start();
      await dueAtInstant(db, [occurrence], await now(db));
      // From the first mail lined up to the last one settled.
      const waiting = async (): Promise<number> =>
        (
          await one<{ n: number }>(
            db,
            "SELECT COUNT(*) AS n FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state = 'delivered'",
            [occurrence],
          )
        ).n;
      await mustCome(
        'the first mail lined up',
        async () =>
          (
            await rows(db, "SELECT 1 FROM deliveries WHERE occurrence_id = ? AND method = 'mail' LIMIT 1", [
              occurrence,
            ])
          ).length > 0,
        20_000,
      );
      const mine = await timed(() =>
        mustCome('the last mail', async () => (await waiting()) === people.length, 120_000),
      );
      await engine.stop();
      const answer = (await (await fetch(`${address}/api/mails?most=1`)).json()) as { mails: Caught[] };
      const [sample] = answer.mails;
      if (!sample) throw new Error('No mail was caught');

      await empty();
      const transport = nodemailer.createTransport({
        pool: true,
        host: '127.0.0.1',
        port: smtp,
        maxConnections: CONNECTIONS,
        maxMessages: 1000,
      });
      const limit = await timed(() =>
        Promise.all(
          people.map(({ mail, name }) =>
            transport.sendMail({
              from: { name: 'Generated Network', address: 'desk@bench.example' },
              to: { name, address: mail },
              subject: sample.subject,
              html: sample.html,
              text: sample.text,
            }),
          ),
        ),
      );
      transport.close();
      if (run > 0) {
        ours.push(mine);
        bare.push(limit);
      }
    }
    const ratio = median(ours.map((mine, i) => mine / (bare[i] ?? Number.NaN)));
    console.log(
      `${people.length.toLocaleString('en-GB')} mails of one send through the stand-in, ${CONNECTIONS} connections, ${RUNS} pairs`,
    );
    console.log(
      `  ours ${seconds(median(ours))}, bare pooled loop ${seconds(median(bare))}, ratio ${ratio.toFixed(2)} (aim 1.3)\n`,
    );
  } finally {
    standIn.kill();
  }
}
