import { SMTPServer, type SMTPServerDataStream, type SMTPServerSession } from 'smtp-server';
import { Problem } from '../problem.ts';
import { isTaken, takeMail, type MailInWorld } from './taking.ts';

/** Most bytes of a mail. */
export const MOST_MAIL = 25_000_000;
/** Mails read at once: each is held whole while it is read. */
const MOST_AT_ONCE = 10;
const MOST_RECIPIENTS = 10;
const IDLE_MS = 60_000;

class SmtpAnswer extends Error {
  readonly responseCode: number;
  constructor(responseCode: number, message: string) {
    super(message);
    this.responseCode = responseCode;
  }
}

/** A sentence in the letters that an SMTP answer has (RFC 5321 section 4.2). */
const plain = (text: string): string =>
  text
    .replace(/[“”]/g, '"')
    .replace(/[‘’]/g, "'")
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]/g, '')
    .slice(0, 400);

/** What the server that sent something is told: refused for good, or to be tried again. */
function answerTo(error: unknown): SmtpAnswer {
  if (!(error instanceof Problem))
    return new SmtpAnswer(451, '4.3.0 Something went wrong here, try again later');
  if (error.status === 429) return new SmtpAnswer(451, `4.7.1 ${plain(error.message)}`);
  const code = error.status === 404 ? '5.1.1' : error.status === 403 ? '5.7.1' : '5.6.0';
  return new SmtpAnswer(550, `${code} ${plain(error.message)}`);
}

function bytesIn(stream: SMTPServerDataStream): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = [];
    let size = 0;
    stream.on('data', (chunk: Buffer) => {
      size += chunk.byteLength;
      // What is too much is read to its end, as the protocol asks, and not kept.
      if (size <= MOST_MAIL) chunks.push(chunk);
    });
    stream.once('error', reject);
    stream.once('end', () => {
      if (size > MOST_MAIL || stream.sizeExceeded)
        reject(new SmtpAnswer(552, `5.3.4 A mail has at most ${MOST_MAIL / 1_000_000} MB here`));
      else resolve(Buffer.concat(chunks));
    });
  });
}

/**
 * The receiver of mail (SMTP, RFC 5321) that an operator's mail server hands on to. A mail is answered once what it says stands in
 * the database: until then the server that sent it keeps it.
 *
 * @returns what closes it
 */
export async function startMailIn(
  world: MailInWorld,
  { port, host }: { port: number; host: string },
): Promise<{ stop: () => Promise<void> }> {
  const take = async (stream: SMTPServerDataStream, session: SMTPServerSession): Promise<void> => {
    const raw = await bytesIn(stream);
    const { mailFrom, rcptTo } = session.envelope;
    const sender = mailFrom === false ? '' : mailFrom.address;
    const refusals: SmtpAnswer[] = [];
    for (const { address } of rcptTo) {
      try {
        await takeMail(world, { sender, recipient: address, raw });
      } catch (error) {
        const answer = answerTo(error);
        if (!(error instanceof Problem)) world.log.error({ err: error }, 'a mail could not be taken');
        // One that may pass is tried again with all; what was taken before is known by its id.
        if (answer.responseCode < 500) throw answer;
        refusals.push(answer);
      }
    }
    const [refusal] = refusals;
    if (refusal && refusals.length === rcptTo.length) throw refusal;
  };
  const server = new SMTPServer({
    name: world.domain,
    banner: 'Clear Bell',
    size: MOST_MAIL,
    maxClients: MOST_AT_ONCE,
    socketTimeout: IDLE_MS,
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    disableReverseLookup: true,
    logger: false,
    onRcptTo: (address, session, done) => {
      if (session.envelope.rcptTo.length >= MOST_RECIPIENTS)
        done(new SmtpAnswer(452, '4.5.3 Too many recipients'));
      else
        void isTaken(world, address.address).then(
          (taken) => done(taken ? undefined : new SmtpAnswer(550, '5.1.1 Nobody is reached at this address')),
          () => done(new SmtpAnswer(451, '4.3.0 Something went wrong here, try again later')),
        );
    },
    onData: (stream, session, done) => {
      void take(stream, session).then(
        () => done(),
        (error: unknown) => done(error instanceof Error ? error : new Error(String(error))),
      );
    },
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, () => {
      server.off('error', reject);
      server.on('error', (error) => world.log.warn({ err: error }, 'a connection for mail broke'));
      resolve();
    });
  });
  return { stop: () => new Promise((resolve) => server.close(resolve)) };
}
