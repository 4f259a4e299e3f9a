import { createHash } from 'node:crypto';
import { z } from 'zod';
import { CALLS_A_MINUTE } from '../../core/api/token.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { hashToken } from '../accounts/opening.ts';
import { asProgram } from '../audit/program.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import type { Database } from '../database/connection.ts';
import { readJson } from '../http/body.ts';
import { hasAlready } from '../http/conditional.ts';
import { bindKey, freeKey, keepAnswer, keptAnswer } from '../http/idempotencyStore.ts';
import { errorResponse } from '../http/problemDetails.ts';
import { personById } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { OPERATIONS } from './operations.ts';
import type { ApiCall, ApiSettings, Answered, Operation } from './operation.ts';
import { noteCall, tokenByHash, type Token } from './tokenStore.ts';

/** What the API is answered from. */
export interface Api {
  db: Database;
  attempts: AttemptLimit;
  /** The address it is reached at, without a slash at its end. */
  base: string;
  settings: ApiSettings;
}

const nowhere = (): Problem =>
  new Problem(404, 'There is no operation at this address. See the description of the API.');

/** The parts of a path that fit one with names in braces, by name; nothing where it does not fit. */
function partsOf(pattern: string, path: string): Record<string, string> | undefined {
  const wanted = pattern.split('/');
  const given = path.split('/');
  if (wanted.length !== given.length) return undefined;
  const parts: Record<string, string> = {};
  for (const [at, want] of wanted.entries()) {
    const part = given[at] ?? '';
    const name = /^\{(\w+)\}$/.exec(want)?.[1];
    if (name === undefined ? part !== want : !/^[1-9]\d{0,14}$/.test(part)) return undefined;
    if (name !== undefined) parts[name] = part;
  }
  return parts;
}

function operationAt(method: string, path: string): { operation: Operation; parts: Record<string, string> } {
  const here = OPERATIONS.flatMap((operation) => {
    const parts = partsOf(operation.path, path);
    return parts ? [{ operation, parts }] : [];
  });
  if (here.length === 0) throw nowhere();
  const found = here.find(({ operation }) => operation.method === method);
  if (found) return found;
  const allowed = here.map(({ operation }) => operation.method).join(', ');
  throw new Problem(405, `This address takes ${allowed}.`, { more: { allow: allowed } });
}

async function tokenOf(db: Database, request: Request): Promise<Token> {
  const sent = /^Bearer ([\w~+/.=-]{1,200})$/i.exec(request.headers.get('authorization') ?? '')?.[1];
  const token = sent === undefined ? undefined : await tokenByHash(db, hashToken(sent));
  if (!token)
    throw new Problem(
      401,
      'Send a token that holds: “Authorization: Bearer …”. Tokens are made under Gateways.',
      { more: { challenge: sent === undefined ? 'Bearer' : 'Bearer error="invalid_token"' } },
    );
  return token;
}

/** The revision a call was made over. */
function revisionOf(request: Request): number {
  const sent = request.headers.get('if-match');
  if (sent === null)
    throw new Problem(428, 'Send If-Match with the ETag you read, so that nobody is overwritten unseen.');
  const revision = /^"(\d{1,15})(?:-[\w-]{1,43})?"$/.exec(sent.trim())?.[1];
  if (revision === undefined)
    throw new Problem(412, 'If-Match is the ETag that came with what you read, in its quotation marks.');
  return Number(revision);
}

/** What is answered, in a form that can be kept. */
interface Told {
  status: number;
  headers: Record<string, string>;
  text: string;
}

/** A call that carries an Idempotency-Key. */
interface Bound {
  /** In the space of keys from the API. */
  key: string;
  /** What was answered when the same call was carried out before. */
  before: Told | null;
  keep: (told: Told) => Promise<unknown>;
  free: () => Promise<unknown>;
}

const sha256 = (...parts: (string | Buffer)[]): Buffer =>
  parts.reduce((sum, part) => sum.update(part).update('\n'), createHash('sha256')).digest();

const toldSchema = z.object({ status: z.int(), headers: z.record(z.string(), z.string()), text: z.string() });

/**
 * Binds the key of a call to it. What cannot be told apart by its service is done once under a key: the same call again is
 * answered as before, or told that the first is still under way.
 */
async function bind(
  db: Database,
  personId: number,
  operation: Operation,
  { request, path, bytes }: { request: Request; path: string; bytes: Buffer },
): Promise<Bound | undefined> {
  const sent = request.headers.get('idempotency-key');
  if (operation.method === 'GET' || (sent === null && !operation.keyed)) return undefined;
  if (sent === null || !/^[\x21-\x7e]{8,80}$/.test(sent))
    throw new Problem(400, 'Send an Idempotency-Key of 8 to 80 characters, a new one for each new intent.', {
      errors: [{ field: 'Idempotency-Key', detail: 'It has 8 to 80 characters of ASCII without blanks.' }],
    });
  const hash = sha256('api', sent);
  const use = await bindKey(db, personId, hash, sha256(request.method, path, bytes));
  if (use === 'other') {
    const detail = 'This Idempotency-Key was used for something else. Send a new one.';
    throw new Problem(422, detail, { errors: [{ field: 'Idempotency-Key', detail }] });
  }
  const kept = use === 'same' ? await keptAnswer(db, personId, hash) : null;
  if (use === 'same' && kept === null && !operation.keyed)
    throw new Problem(
      409,
      'The same call is under way, or was cut off. See whether it was done, then call again with a new key.',
    );
  return {
    key: `a.${hash.toString('base64url')}`,
    before: kept === null ? null : toldSchema.parse(JSON.parse(kept)),
    keep: (told) => keepAnswer(db, personId, hash, JSON.stringify(told)),
    free: async () => (use === 'new' ? freeKey(db, personId, hash) : undefined),
  };
}

/** What an operation answers, as it is told. */
function toldOf(
  operation: Operation,
  { body, revision, after, location }: Answered<unknown>,
  { url, base }: { url: URL; base: string },
): Told {
  // Nothing leaves but what is described.
  const read = operation.answer?.safeParse(body);
  if (read?.error) throw new Error(`What ${operation.id} answers is not as described: ${read.error.message}`);
  const text = read ? JSON.stringify(read.data) : '';
  const headers: Record<string, string> = {};
  // The revision is what a change is made over; the rest tells apart what changes without it, such as how many come.
  if (revision !== undefined)
    headers.etag = `"${revision}-${sha256(text).toString('base64url').slice(0, 16)}"`;
  if (location !== undefined) headers.location = `${base}${location}`;
  if (typeof after === 'string') {
    const next = new URL(`${base}${url.pathname.slice(url.pathname.indexOf('/api/v1') + 7)}${url.search}`);
    next.searchParams.set('after', after);
    headers.link = `<${next.href}>; rel="next"`;
  }
  if (read) headers['content-type'] = 'application/json';
  return { status: read ? (operation.makes ? 201 : 200) : 204, headers, text };
}

/** An answer; 304 without its text where whoever asks has the same already. */
function respond({ status, headers: told, text }: Told, request: Request, headers: Headers): Response {
  headers.set('cache-control', 'no-store');
  for (const [name, value] of Object.entries(told)) headers.set(name, value);
  const reads = request.method === 'GET' || request.method === 'HEAD';
  if (reads && told.etag !== undefined && hasAlready(request, told.etag)) {
    headers.delete('content-type');
    return new Response(null, { status: 304, headers });
  }
  return new Response(status === 204 ? null : text, { status, headers });
}

/** Who calls: a token with whose it is, and their rights as they are now. */
interface Caller {
  token: Token;
  actor: Actor;
  zone: string;
}

async function callerOf(db: Database, token: Token): Promise<Caller> {
  const [actor, person] = await Promise.all([actorOf(db, token.personId), personById(db, token.personId)]);
  if (!actor || !person) throw new Problem(401, 'Whoever made this token has left.');
  return { token, actor, zone: person.zone };
}

async function carryOut(
  { db, base, settings }: Api,
  request: Request,
  path: string,
  { caller, headers }: { caller: Caller; headers: Headers },
): Promise<Response> {
  const url = new URL(request.url);
  const { token, actor, zone } = caller;
  const { operation, parts } = operationAt(request.method === 'HEAD' ? 'GET' : request.method, path);
  const { scope } = operation;
  if (scope !== null && !token.scopes.has(scope))
    throw new Problem(403, `This token may not do that: it needs “${scope}”.`, { more: { scope } });
  const query = operation.query?.strict().parse(Object.fromEntries(url.searchParams)) ?? {};
  const { value, bytes } = operation.body
    ? await readJson(request, operation.mostBytes ?? undefined)
    : { value: undefined, bytes: Buffer.alloc(0) };
  const body = operation.body ? operation.body.parse(value) : undefined;
  const revision = operation.overRevision ? revisionOf(request) : 0;
  const bound = await bind(db, actor.id, operation, { request, path, bytes });
  if (bound?.before) return respond(bound.before, request, headers);
  const call: ApiCall = {
    db,
    actor,
    zone,
    query,
    body,
    id: (name = 'id') => Number(parts[name]),
    key: bound?.key ?? '',
    revision,
    settings,
    token: { name: token.name, scopes: [...token.scopes], expiresMs: token.expiresMs },
  };
  let answered: Answered<unknown>;
  try {
    answered = await asProgram(token.name, () => operation.run(call));
  } catch (error) {
    await bound?.free().catch(() => undefined);
    // Of two who change the same thing the second is told by the status that belongs to If-Match.
    if (
      operation.overRevision &&
      error instanceof Problem &&
      error.status === 409 &&
      'revision' in error.more
    )
      throw new Problem(412, error.message, { more: { revision: error.more.revision } });
    throw error;
  }
  const told = toldOf(operation, answered, { url, base });
  await bound?.keep(told);
  return respond(told, request, headers);
}

/**
 * Answers a call of the API: proves by its token who calls, counts it, checks what is sent, does it with the rights of the token's
 * owner as they are now, and answers with what is described.
 *
 * @param path what follows the base, with a slash at its beginning
 */
export async function answerApi(api: Api, request: Request, path: string): Promise<Response> {
  const headers = new Headers();
  try {
    const token = await tokenOf(api.db, request);
    headers.set('ratelimit-policy', `"minute";q=${CALLS_A_MINUTE};w=60`);
    // Side by side: none of them waits for another, and each is a journey to the database.
    const [{ left, seconds }, caller] = await Promise.all([
      api.attempts.call(token.id),
      callerOf(api.db, token),
      noteCall(api.db, token.id),
    ]);
    headers.set('ratelimit', `"minute";r=${left};t=${seconds}`);
    return await carryOut(api, request, path, { caller, headers });
  } catch (error) {
    const refused = errorResponse(error);
    for (const [name, value] of headers) if (!refused.headers.has(name)) refused.headers.set(name, value);
    if (error instanceof Problem && error.status === 405)
      refused.headers.set('allow', String(error.more.allow));
    if (error instanceof Problem && error.status === 401)
      refused.headers.set(
        'www-authenticate',
        typeof error.more.challenge === 'string' ? error.more.challenge : 'Bearer',
      );
    return refused;
  }
}
