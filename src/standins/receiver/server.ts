import { createHmac, timingSafeEqual } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import { MOODS, type Mood } from '../mail/mood.ts';
import { moodLine, page, utc } from '../page.ts';

const SLOW_MS = 4_000;
const KEPT = 500;
const MOST_BYTES = 1_000_000;
const TOLERANCE_S = 300;

interface Came {
  atMs: number;
  id: string;
  /** What its signature is worth. */
  proof: 'good' | 'bad' | 'too old' | 'none';
  type: string;
  body: string;
}

/** Checks a signature by the text of Standard Webhooks, as somebody would who has never seen the sender's code. */
export function proofOf(
  secret: string,
  headers: { id: string; timestamp: string; signature: string },
  body: string,
  nowMs: number,
): Came['proof'] {
  if (headers.signature === '') return 'none';
  if (Math.abs(nowMs / 1000 - Number(headers.timestamp)) > TOLERANCE_S) return 'too old';
  const key = Buffer.from(secret.replace(/^whsec_/, ''), 'base64');
  const wanted = createHmac('sha256', key).update(`${headers.id}.${headers.timestamp}.${body}`).digest();
  return headers.signature.split(' ').some((each) => {
    const [version, signature = ''] = each.split(',');
    const given = Buffer.from(signature, 'base64');
    return version === 'v1' && given.byteLength === wanted.byteLength && timingSafeEqual(given, wanted);
  })
    ? 'good'
    : 'bad';
}

const header = (request: IncomingMessage, name: string): string => {
  const value = request.headers[name];
  return typeof value === 'string' ? value : '';
};

async function read(request: IncomingMessage): Promise<string> {
  const parts: Buffer[] = [];
  let bytes = 0;
  for await (const part of request as AsyncIterable<Buffer>) {
    bytes += part.byteLength;
    if (bytes > MOST_BYTES) break;
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

/**
 * An outside system that is told of what happens: `POST /events`. It shows what came, whether the signature is good, and can be
 * told to be slow, to say "later" (503), that it is gone (410), or to be down. `GET /came` gives what came as JSON.
 */
export async function startReceiverStandIn(
  port: number,
  secret: string,
): Promise<{ stop: () => Promise<void> }> {
  let mood: Mood = 'well';
  const came: Came[] = [];

  async function take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (mood === 'slow') await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
    if (mood === 'busy' || mood === 'refusing') {
      response.writeHead(mood === 'busy' ? 503 : 410).end();
      return;
    }
    const body = await read(request);
    const signed = {
      id: header(request, 'webhook-id'),
      timestamp: header(request, 'webhook-timestamp'),
      signature: header(request, 'webhook-signature'),
    };
    const proof = proofOf(secret, signed, body, Date.now());
    let type = '';
    try {
      const event = JSON.parse(body) as { type?: unknown };
      type = typeof event.type === 'string' ? event.type : '';
    } catch {
      // What is no JSON is shown as it came.
    }
    came.unshift({ atMs: Date.now(), id: signed.id, proof, type, body });
    came.length = Math.min(came.length, KEPT);
    response.writeHead(proof === 'good' ? 204 : 401).end();
  }
  const shown = (): string =>
    page(
      'Receiver',
      `<h1>What an outside system was told</h1><p>A stand-in system. It ${moodLine(mood, {
        well: 'takes what comes',
        slow: 'is slow',
        busy: 'says "later" (503)',
        refusing: 'says it is gone (410)',
        down: 'is down',
      })}.</p>
<table><thead><tr><th>Came (UTC)</th><th>What</th><th>Signature</th><th>Event</th></tr></thead><tbody>${came
        .map(
          (each) =>
            `<tr><td>${utc(each.atMs)}</td><td>${escapeHtml(each.type)}</td><td>${each.proof}</td><td><pre>${escapeHtml(each.body)}</pre></td></tr>`,
        )
        .join('')}</tbody></table>`,
    );

  const server = createServer((request, response) => {
    const { pathname } = new URL(request.url ?? '/', `http://localhost:${port}`);
    if (request.method === 'POST' && pathname.startsWith('/mood/')) {
      mood = MOODS.find((each) => pathname === `/mood/${each}`) ?? mood;
      response.writeHead(303, { location: '/' }).end();
    } else if (request.method === 'POST' && pathname === '/events') {
      if (mood === 'down') request.socket.destroy();
      // Whoever sent it is gone before all was said.
      else take(request, response).catch(() => response.destroy());
    } else if (pathname === '/came')
      response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(came));
    else response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(shown());
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
