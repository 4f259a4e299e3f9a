import { createHash } from 'node:crypto';
import { CALLS_A_MINUTE } from '../../core/api/token.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { hashToken } from '../accounts/opening.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import type { Database } from '../database/connection.ts';
import { readJson } from '../http/body.ts';
import { bindKey, freeKey } from '../http/idempotencyStore.ts';
import { errorResponse } from '../http/problemDetails.ts';
import { personById } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { OPERATIONS } from './operations.ts';
import type { ApiCall, Answered, Operation } from './operation.ts';
import { noteCall, tokenByHash, type Token } from './tokenStore.ts';

/** What the API is answered from. */
export interface Api {
  db: Database;
  attempts: AttemptLimit;
  /** The address it is reached at, without a slash at its end. */
  base: string;
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
  const revision = /^"(\d{1,15})"$/.exec(sent.trim())?.[1];
  if (revision === undefined)
    throw new Problem(412, 'If-Match is the ETag that came with what you read, in its quotation marks.');
  return Number(revision);
}

interface Bound {
  key: string;
  free: () => Promise<unknown>;
}

const sha256 = (...parts: (string | Buffer)[]): Buffer =>
  parts.reduce((sum, part) => sum.update(part).update('\n'), createHash('sha256')).digest();

async function bind(
  db: Database,
  personId: number,
  request: Request,
  path: string,
  bytes: Buffer,
): Promise<Bound> {
  const sent = request.headers.get('idempotency-key') ?? '';
  if (!/^[\x21-\x7e]{8,80}$/.test(sent))
    throw new Problem(400, 'Send an Idempotency-Key of 8 to 80 characters, a new one for each new intent.', {
      errors: [{ field: 'Idempotency-Key', detail: 'It has 8 to 80 characters of ASCII without blanks.' }],
    });
  const hash = sha256('api', sent);
  const use = await bindKey(db, personId, hash, sha256(request.method, path, bytes));
  if (use === 'other') {
    const detail = 'This Idempotency-Key was used for something else. Send a new one.';
    throw new Problem(422, detail, { errors: [{ field: 'Idempotency-Key', detail }] });
  }
  return {
    key: `a.${hash.toString('base64url')}`,
    free: async () => (use === 'new' ? freeKey(db, personId, hash) : undefined),
  };
}

function respond(
  operation: Operation,
  { body, revision, after, location }: Answered<unknown>,
  { request, url, base, headers }: { request: Request; url: URL; base: string; headers: Headers },
): Response {
  headers.set('cache-control', 'no-store');
  if (revision !== undefined) headers.set('etag', `"${revision}"`);
  if (location !== undefined) headers.set('location', `${base}${location}`);
  if (typeof after === 'string') {
    const next = new URL(`${base}${url.pathname.slice(url.pathname.indexOf('/api/v1') + 7)}${url.search}`);
    next.searchParams.set('after', after);
    headers.set('link', `<${next.href}>; rel="next"`);
  }
  const read = request.headers.get('if-none-match');
  if (
    request.method === 'GET' &&
    revision !== undefined &&
    read?.split(',').some((each) => each.trim() === `"${revision}"`)
  )
    return new Response(null, { status: 304, headers });
  if (!operation.answer) return new Response(null, { status: 204, headers });
  headers.set('content-type', 'application/json');
  // Nothing leaves but what is described.
  return new Response(JSON.stringify(operation.answer.parse(body)), {
    status: operation.makes ? 201 : 200,
    headers,
  });
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
  { db, base }: Api,
  request: Request,
  path: string,
  { caller, headers }: { caller: Caller; headers: Headers },
): Promise<Response> {
  const url = new URL(request.url);
  const { token, actor, zone } = caller;
  const { operation, parts } = operationAt(request.method, path);
  const { scope } = operation;
  if (scope !== null && !token.scopes.has(scope))
    throw new Problem(403, `This token may not do that: it needs “${scope}”.`, { more: { scope } });
  const query = operation.query?.strict().parse(Object.fromEntries(url.searchParams)) ?? {};
  const { value, bytes } = operation.body
    ? await readJson(request)
    : { value: undefined, bytes: Buffer.alloc(0) };
  const body = operation.body ? operation.body.parse(value) : undefined;
  const revision = operation.overRevision ? revisionOf(request) : 0;
  const bound = operation.keyed ? await bind(db, actor.id, request, path, bytes) : undefined;
  const call: ApiCall = {
    db,
    actor,
    zone,
    query,
    body,
    id: (name = 'id') => Number(parts[name]),
    key: bound?.key ?? '',
    revision,
    token: { name: token.name, scopes: [...token.scopes], expiresMs: token.expiresMs },
  };
  try {
    return respond(operation, await operation.run(call), { request, url, base, headers });
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
