import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { MOODS, type CaughtMail, type Mood } from './mood.ts';
import { letterPage, listPage, saidPage, writePage } from './pages.ts';
import { comeBack, handOn, type HandOn } from './sending.ts';

const MOST_KEPT = 20_000;
const SLOW_MS = 1_500;

class SmtpError extends Error {
  readonly responseCode: number;
  constructor(responseCode: number, message: string) {
    super(message);
    this.responseCode = responseCode;
  }
}

async function textOf(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

/**
 * A mail server that catches everything and shows it as a mailbox. It can be told to be slow, to answer "busy, try
 * again" (451), to refuse for good (550), or to be down. An address that begins with "refused." is always refused.
 */
export async function startMailStandIn(ports: {
  smtpPort: number;
  webPort: number;
  /** Where it hands on what is written in its mailbox; nowhere where it is left out. */
  handOn?: HandOn;
}): Promise<{ stop: () => Promise<void> }> {
  let mood: Mood = 'well';
  let nextId = 1;
  let caught: CaughtMail[] = [];
  let smtp: SMTPServer | undefined;

  const openSmtp = (): Promise<void> =>
    new Promise((resolve, reject) => {
      const server = new SMTPServer({
        authOptional: true,
        disabledCommands: ['STARTTLS', 'AUTH'],
        disableReverseLookup: true,
        logger: false,
        onMailFrom: (_address, _session, done) => {
          if (mood === 'busy') done(new SmtpError(451, 'Busy just now, try again later'));
          else done();
        },
        onRcptTo: (address, _session, done) => {
          if (mood === 'refusing' || address.address.startsWith('refused.'))
            done(new SmtpError(550, 'No such mailbox here'));
          else done();
        },
        onData: (stream, session, done) => {
          const chunks: Buffer[] = [];
          stream.on('data', (chunk: Buffer) => chunks.push(chunk));
          stream.on('end', () => {
            const keep = (): void => {
              const [to] = session.envelope.rcptTo;
              caught.push({
                id: nextId++,
                receivedMs: Date.now(),
                to: to?.address ?? '',
                from: session.envelope.mailFrom === false ? '' : session.envelope.mailFrom.address,
                raw: Buffer.concat(chunks),
              });
              if (caught.length > MOST_KEPT) caught = caught.slice(-MOST_KEPT / 2);
              done();
            };
            if (mood === 'slow') setTimeout(keep, SLOW_MS);
            else keep();
          });
        },
      });
      server.on('error', reject);
      server.listen(ports.smtpPort, '127.0.0.1', () => {
        server.off('error', reject);
        server.on('error', () => undefined);
        smtp = server;
        resolve();
      });
    });
  const closeSmtp = (): Promise<void> =>
    new Promise((resolve) => {
      const server = smtp;
      smtp = undefined;
      if (!server) {
        resolve();
        return;
      }
      server.close(() => resolve());
    });

  async function setMood(next: Mood): Promise<void> {
    if (next === 'down') await closeSmtp();
    else if (mood === 'down') await openSmtp();
    mood = next;
  }

  async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const url = new URL(request.url ?? '/', 'http://localhost');
    const html = (page: string): void => {
      response.setHeader('content-type', 'text/html; charset=utf-8');
      response.end(page);
    };
    const json = (value: unknown): void => {
      response.setHeader('content-type', 'application/json');
      response.end(JSON.stringify(value));
    };
    const moodAsked = MOODS.find((each) => url.pathname === `/mood/${each}`);
    if (request.method === 'POST' && moodAsked) {
      await setMood(moodAsked);
      response.writeHead(303, { location: '/' }).end();
      return;
    }
    if (request.method === 'POST' && url.pathname === '/empty') {
      caught = [];
      response.writeHead(303, { location: '/' }).end();
      return;
    }
    const { handOn: on } = ports;
    if (on && url.pathname === '/write') {
      if (request.method !== 'POST') {
        html(writePage(Object.fromEntries(url.searchParams)));
        return;
      }
      const given = Object.fromEntries(new URLSearchParams(await textOf(request)));
      const said = await handOn(on, {
        from: given.from ?? '',
        to: given.to ?? '',
        subject: given.subject ?? '',
        text: given.text ?? '',
        proven: given.proven === 'yes',
      });
      html(writePage(given, said));
      return;
    }
    const back = /^\/mail\/(\d+)\/come-back$/.exec(url.pathname)?.[1];
    const returned = back === undefined ? undefined : caught.find((each) => each.id === Number(back));
    if (on && returned && request.method === 'POST') {
      html(saidPage(await comeBack(on, returned)));
      return;
    }
    const wanted = url.searchParams.get('to')?.toLowerCase() ?? '';
    const found = caught.filter((mail) => mail.to.toLowerCase().includes(wanted));
    if (url.pathname === '/api/mails') {
      const latest = found.slice(-Number(url.searchParams.get('most') ?? 50)).reverse();
      json({
        count: found.length,
        mails: await Promise.all(
          latest.map(async ({ id, to, receivedMs, raw }) => {
            const parsed = await simpleParser(raw);
            return {
              id,
              to,
              receivedMs,
              subject: parsed.subject,
              messageId: parsed.messageId,
              replyTo: parsed.replyTo?.value[0]?.address,
              text: parsed.text,
              html: parsed.html,
              raw: raw.toString('utf8'),
            };
          }),
        ),
      });
      return;
    }
    if (url.pathname === '/api/receipts') {
      // For counting large runs without parsing them: recipient and Message-ID only.
      json(
        found.map((mail) => ({
          to: mail.to,
          at: mail.receivedMs,
          messageId: /^message-id:\s*(\S+)/im.exec(mail.raw.toString('latin1'))?.[1] ?? '',
        })),
      );
      return;
    }
    const one = /^\/mail\/(\d+)(\/body)?$/.exec(url.pathname);
    if (one) {
      const mail = caught.find((each) => each.id === Number(one[1]));
      if (!mail) {
        response.writeHead(404).end('No such mail');
        return;
      }
      const parsed = await simpleParser(mail.raw);
      if (one[2] === undefined) {
        html(letterPage(mail, parsed, on?.domain));
        return;
      }
      response.setHeader(
        'content-security-policy',
        "default-src 'none'; style-src 'unsafe-inline'; img-src data: http: https:",
      );
      html(`<base target="_blank">${typeof parsed.html === 'string' ? parsed.html : ''}`);
      return;
    }
    if (url.pathname !== '/') {
      response.writeHead(404).end('Nothing here');
      return;
    }
    const latest = found.slice(-200).reverse();
    html(
      listPage(
        await Promise.all(latest.map(async (mail) => ({ mail, parsed: await simpleParser(mail.raw) }))),
        { mood, count: found.length, wanted },
      ),
    );
  }

  await openSmtp();
  const web = createServer((request, response) => {
    answer(request, response).catch((error: unknown) => {
      response.statusCode = 500;
      response.end(String(error));
    });
  });
  await new Promise<void>((resolve, reject) => {
    web.once('error', reject);
    web.listen(ports.webPort, '127.0.0.1', resolve);
  });
  return {
    stop: async () => {
      web.closeAllConnections();
      web.close();
      await closeSmtp();
    },
  };
}
