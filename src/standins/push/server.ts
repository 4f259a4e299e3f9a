import { createECDH, createPublicKey, randomBytes, verify, type ECDH } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import ece from 'http_ece';
import { MOODS, type Mood } from '../mail/mood.ts';
import type { PushedMessage } from './message.ts';
import { pushPage } from './pages.ts';

const MOST_KEPT = 2_000;
const MOST_BYTES = 4_096;
const SLOW_MS = 1_500;

interface Device {
  id: string;
  label: string;
  keys: ECDH;
  auth: Buffer;
  gone: boolean;
}

/** Reads the claims of a signed token; throws where it does not hold (RFC 8292). */
function requireSigned(authorization: string | undefined, origin: string): string {
  const match = /^vapid t=([\w-]+\.[\w-]+)\.([\w-]+), ?k=([\w-]+)$/.exec(authorization ?? '');
  if (!match) throw new Error('The request is not signed with vapid');
  const [, signed = '', signature = '', key = ''] = match;
  const point = Buffer.from(key, 'base64url');
  const publicKey = createPublicKey({
    key: {
      kty: 'EC',
      crv: 'P-256',
      x: point.subarray(1, 33).toString('base64url'),
      y: point.subarray(33, 65).toString('base64url'),
    },
    format: 'jwk',
  });
  const good = verify(
    'sha256',
    Buffer.from(signed),
    { key: publicKey, dsaEncoding: 'ieee-p1363' },
    Buffer.from(signature, 'base64url'),
  );
  if (!good) throw new Error('The signature does not hold');
  const claims = JSON.parse(Buffer.from(signed.split('.')[1] ?? '', 'base64url').toString()) as {
    aud?: string;
    exp?: number;
    sub?: string;
  };
  if (claims.aud !== origin) throw new Error(`The token is for ${claims.aud ?? 'nobody'}`);
  const now = Date.now() / 1000;
  if (!claims.exp || claims.exp < now || claims.exp > now + 86_400) throw new Error('The token is too old');
  return claims.sub ?? '';
}

/**
 * A push service by RFC 8030 that also plays the devices: it checks the signature of each message (RFC 8292), decrypts it
 * as the device would (RFC 8291) and shows it. It can be told to be slow, to say "later" (429), to refuse (403), or to be
 * down; a device can be taken away, after which it answers 410.
 */
export async function startPushStandIn(port: number): Promise<{ stop: () => Promise<void> }> {
  const origin = `http://localhost:${port}`;
  const devices = new Map<string, Device>();
  let messages: PushedMessage[] = [];
  let mood: Mood = 'well';

  async function read(request: IncomingMessage): Promise<Buffer> {
    const chunks: Buffer[] = [];
    for await (const chunk of request) chunks.push(chunk as Buffer);
    return Buffer.concat(chunks);
  }

  async function take(request: IncomingMessage, response: ServerResponse, id: string): Promise<void> {
    const body = await read(request);
    if (mood === 'down') {
      request.socket.destroy();
      return;
    }
    if (mood === 'slow') await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
    if (mood === 'busy') {
      response.writeHead(429, { 'retry-after': '2' }).end();
      return;
    }
    if (mood === 'refusing') {
      response.writeHead(403).end();
      return;
    }
    const device = devices.get(id);
    if (!device || device.gone) {
      response.writeHead(410).end();
      return;
    }
    if (body.byteLength > MOST_BYTES) {
      response.writeHead(413).end();
      return;
    }
    if (request.headers['content-encoding'] !== 'aes128gcm' || request.headers.ttl === undefined) {
      response.writeHead(400).end('A message is encoded with aes128gcm and says its TTL');
      return;
    }
    try {
      const from = requireSigned(request.headers.authorization, origin);
      const text = ece.decrypt(body, {
        version: 'aes128gcm',
        privateKey: device.keys,
        authSecret: device.auth.toString('base64url'),
      });
      messages.push({
        device: id,
        label: device.label,
        atMs: Date.now(),
        text: text.toString('utf8'),
        ttl: request.headers.ttl as string,
        urgency: String(request.headers.urgency ?? 'normal'),
        from,
      });
      if (messages.length > MOST_KEPT) messages = messages.slice(-MOST_KEPT / 2);
      response.writeHead(201, { location: `${origin}/messages/${randomBytes(6).toString('hex')}` }).end();
    } catch (error) {
      response.writeHead(401).end(String(error));
    }
  }

  async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const url = new URL(request.url ?? '/', origin);
    const push = /^\/push\/([\w-]+)$/.exec(url.pathname);
    if (push && request.method === 'POST') {
      await take(request, response, push[1] ?? '');
      return;
    }
    if (url.pathname === '/devices' && request.method === 'POST') {
      const { label } = JSON.parse((await read(request)).toString()) as { label?: string };
      const keys = createECDH('prime256v1');
      keys.generateKeys();
      const device = {
        id: randomBytes(16).toString('base64url'),
        label: label ?? '',
        keys,
        auth: randomBytes(16),
        gone: false,
      };
      devices.set(device.id, device);
      response.setHeader('content-type', 'application/json');
      response.end(
        JSON.stringify({
          endpoint: `${origin}/push/${device.id}`,
          keys: {
            p256dh: keys.getPublicKey('base64url'),
            auth: device.auth.toString('base64url'),
          },
        }),
      );
      return;
    }
    const action = /^\/(mood|gone)\/([\w-]+)$/.exec(url.pathname);
    if (action && request.method === 'POST') {
      const chosen = MOODS.find((each) => each === action[2]);
      if (action[1] === 'mood' && chosen) mood = chosen;
      const device = devices.get(action[2] ?? '');
      if (action[1] === 'gone' && device) device.gone = true;
      response.writeHead(303, { location: '/' }).end();
      return;
    }
    if (url.pathname === '/api/messages') {
      response.setHeader('content-type', 'application/json');
      response.end(JSON.stringify([...messages].reverse()));
      return;
    }
    if (url.pathname !== '/') {
      response.writeHead(404).end('Nothing here');
      return;
    }
    response.setHeader('content-type', 'text/html; charset=utf-8');
    response.end(
      pushPage(
        mood,
        [...devices.values()].map(({ id, label, gone }) => ({ id, label, gone })),
        [...messages].reverse().slice(0, 200),
      ),
    );
  }

  const server = createServer((request, response) => {
    answer(request, response).catch((error: unknown) => {
      response.statusCode = 500;
      response.end(String(error));
    });
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  return {
    stop: () => {
      server.closeAllConnections();
      return new Promise((resolve) => server.close(() => resolve()));
    },
  };
}
