import { createHash, randomBytes } from 'node:crypto';
import type { APIContext } from 'astro';
import { readSession, type OpenSession } from '../../src/server/accounts/service.ts';
import { insertSession } from '../../src/server/accounts/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { closeAppContext } from '../../src/server/http/appContext.ts';
import type { Route } from '../../src/server/http/endpoint.ts';
import { copiedDemo, SECRET } from './world.ts';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';
const METHODS: readonly Method[] = ['GET', 'POST', 'PUT', 'DELETE'];

/** Every endpoint of the application as its files have it, by method and address. */
export async function everyRoute(): Promise<Map<string, Route>> {
  const modules = import.meta.glob<Record<string, Route>>([
    '../../src/pages/**/*.ts',
    '!../../src/pages/healthz.ts',
  ]);
  const found = new Map<string, Route>();
  for (const [file, load] of Object.entries(modules)) {
    const path = file
      .replace(/^.*\/src\/pages/, '')
      .replace(/\.ts$/, '')
      .replace(/\/index$/, '');
    const module = await load();
    for (const method of METHODS) if (module[method]) found.set(`${method} ${path}`, module[method]);
  }
  return found;
}

/** A database with the demo organisation, with which the endpoints of this process work. */
export async function demoHouse(name: string): Promise<Database> {
  const { db, url } = await copiedDemo(name);
  await closeAppContext();
  Object.assign(process.env, {
    DATABASE_URL: url,
    CLEAR_BELL_URL: 'http://bell.test',
    CLEAR_BELL_SECRET: SECRET,
    MAIL_URL: 'smtp://127.0.0.1:1',
    MAIL_FROM: 'desk@bell.test',
    LOG_LEVEL: 'silent',
  });
  return db;
}

/** Signs somebody of the demo in, by the first part of their mail address. */
export async function signedIn(db: Database, local: string): Promise<OpenSession> {
  const [person] = await rows<{ id: number }>(db, 'SELECT id FROM people WHERE mail LIKE ?', [`${local}@%`]);
  const token = randomBytes(32).toString('base64url');
  await insertSession(db, createHash('sha256').update(token).digest(), person!.id, 1);
  return (await readSession(db, token))!;
}

export interface Asked {
  session: OpenSession | undefined;
  params?: Record<string, string>;
  query?: string;
  body?: unknown;
  bytes?: Buffer;
  key?: string;
}

let keys = 0;

/** Calls an endpoint as the application would, and gives the status with what was answered. */
export async function callRoute(
  name: string,
  route: Route,
  { session, params = {}, query = '', body, bytes, key }: Asked,
): Promise<{ status: number; text: string }> {
  const [method = 'GET', pattern = '/'] = name.split(' ');
  const path = pattern.replace(/\[(\w+)\]/g, (_, param: string) => params[param] ?? '0');
  const url = new URL(`http://bell.test${path}${query === '' ? '' : `?${query}`}`);
  const given = bytes ?? (body === undefined ? undefined : JSON.stringify(body));
  const ended = new AbortController();
  const request = new Request(url, {
    method,
    headers: {
      ...(given === undefined ? {} : { 'content-type': 'application/json' }),
      'idempotency-key': key ?? `route-test-${++keys}`,
    },
    ...(given === undefined ? {} : { body: given as never }),
    signal: ended.signal,
  });
  const context = {
    request,
    url,
    params,
    locals: { session },
    clientAddress: '127.0.0.1',
    cookies: { get: () => undefined, set: () => undefined, delete: () => undefined, has: () => false },
    redirect: (to: string) => new Response(null, { status: 302, headers: { location: to } }),
  };
  const response = await route(context as unknown as APIContext);
  // A stream that does not end is not waited for.
  const stream = (response.headers.get('content-type') ?? '').startsWith('text/event-stream');
  const text = stream ? '' : await response.text();
  ended.abort();
  return { status: response.status, text };
}
