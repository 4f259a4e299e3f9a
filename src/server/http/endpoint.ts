import { createHash } from 'node:crypto';
import type { APIContext, APIRoute } from 'astro';
import type { z } from 'zod';
import type { OpenSession } from '../accounts/service.ts';
import { bytesWords } from '../../core/words.ts';
import { Problem } from '../problem.ts';
import { readBytes, readJson } from './body.ts';
import { appContext, type AppContext } from './appContext.ts';
import { bindKey, freeKey } from './idempotencyStore.ts';
import { errorResponse } from './problemDetails.ts';

/** What a handler is given: what the application works with, the request, and who is signed in. */
export interface Call extends AppContext {
  session: OpenSession;
  context: APIContext;
  /** The whole number a parameter of the path stands for; a 404 problem where it is none. */
  id: (name?: string) => number;
  /**
   * The caller's Idempotency-Key, bound to this request, in a form of its own that no key of the system has.
   *
   * @throws 400 where there is none, 422 where it was used for something else
   */
  idempotencyKey: () => Promise<string>;
}

/**
 * A route with the schema of its body, so that what it takes can be told without calling it.
 *
 * Takes and Gives are what its body must fit and what it answers, before either is made JSON: types alone, by which the pages'
 * own calls are checked.
 */
export type Route<Takes = unknown, Gives = unknown> = APIRoute & {
  body?: z.ZodType;
  readonly types?: { takes: Takes; gives: Gives };
};

function wholeNumber(text: string | undefined): number {
  if (!text || !/^[1-9]\d{0,14}$/.test(text)) throw new Problem(404, 'There is nothing at this address.');
  return Number(text);
}

const sha256 = (...parts: (string | Buffer)[]): Buffer =>
  parts.reduce((sum, part) => sum.update(part).update('\n'), createHash('sha256')).digest();

/** A key in the space of keys from outside, which the system's own never enter. */
const outsideKey = (hash: Buffer): string => `x.${hash.toString('base64url')}`;

/** The session of a request; a 401 problem where there is none. */
function sessionOf(context: APIContext): OpenSession {
  const { session } = context.locals;
  if (!session) throw new Problem(401, 'Your session has ended. Sign in again; what you wrote is kept.');
  return session;
}

/** Answers with what a handler gives. A key that was bound for a request which is then refused is free again. */
async function answered(
  context: APIContext,
  body: Buffer | null,
  handler: (call: Call) => unknown,
): Promise<Response> {
  const session = sessionOf(context);
  const bound: { key: Buffer | null } = { key: null };
  const given: Call = {
    ...appContext(),
    session,
    context,
    id: (name = 'id') => wholeNumber(context.params[name]),
    idempotencyKey: async () => {
      const key = context.request.headers.get('idempotency-key') ?? '';
      if (!/^[\x21-\x7e]{8,80}$/.test(key))
        throw new Problem(
          400,
          'Send an Idempotency-Key header of 8 to 80 characters, a new one for each new intent.',
        );
      const hash = sha256(key);
      const asked = sha256(context.request.method, context.url.pathname, body ?? '');
      const use = await bindKey(appContext().db, session.actor.id, hash, asked);
      if (use === 'other')
        throw new Problem(422, 'This Idempotency-Key was used for something else. Send a new one.', {
          errors: [{ field: 'Idempotency-Key', detail: 'It was used for something else. Send a new one.' }],
        });
      if (use === 'new') bound.key = hash;
      return outsideKey(hash);
    },
  };
  try {
    return respond(await handler(given));
  } catch (error) {
    if (bound.key) await freeKey(appContext().db, session.actor.id, bound.key).catch(() => undefined);
    throw error;
  }
}

function respond(result: unknown): Response {
  if (result instanceof Response) return result;
  if (result === undefined) return new Response(null, { status: 204 });
  return Response.json(result, { headers: { 'cache-control': 'no-store' } });
}

const guarded =
  (work: (context: APIContext) => Promise<Response>): Route<never, never> =>
  async (context) => {
    try {
      return await work(context);
    } catch (error) {
      return errorResponse(error);
    }
  };

/** An endpoint for those who are signed in, without a body. What the handler gives is answered as JSON. */
export const endpoint = <Gives>(handler: (call: Call) => Gives): Route<undefined, Awaited<Gives>> =>
  guarded((context) => answered(context, null, handler));

/** An endpoint for those who are signed in, whose JSON body must fit a schema. */
export function endpointWith<S extends z.ZodType, Gives>(
  schema: S,
  handler: (input: z.output<S>, call: Call) => Gives,
): Route<z.input<S>, Awaited<Gives>> {
  const route = guarded(async (context) => {
    // Nothing is read for somebody who is not signed in.
    sessionOf(context);
    const { value, bytes } = await readJson(context.request);
    return answered(context, bytes, (given) => handler(schema.parse(value), given));
  });
  return Object.assign(route, { body: schema });
}

/** An endpoint for anybody, whose JSON body must fit a schema. */
export function openEndpointWith<S extends z.ZodType, Gives>(
  schema: S,
  handler: (input: z.output<S>, context: APIContext) => Gives,
): Route<z.input<S>, Awaited<Gives>> {
  const route = guarded(async (context) =>
    respond(await handler(schema.parse((await readJson(context.request)).value), context)),
  );
  return Object.assign(route, { body: schema });
}

/** An endpoint for anybody, which reads what is sent to it by itself. */
export const openEndpoint = <Gives>(
  handler: (context: APIContext) => Gives,
): Route<unknown, Awaited<Gives>> => guarded(async (context) => respond(await handler(context)));

/** An endpoint for those who are signed in, whose body is the bytes of a file of at most so many. */
export const endpointWithFile = <Gives>(
  limit: (url: URL) => number,
  handler: (bytes: Buffer, call: Call) => Gives,
): Route<Blob, Awaited<Gives>> =>
  guarded(async (context) => {
    sessionOf(context);
    const most = limit(context.url);
    const detail = `The file has more than ${bytesWords(most)}. Make it smaller, or put it behind a link.`;
    const tooLarge = new Problem(413, detail, { errors: [{ field: 'file', detail }] });
    const bytes = await readBytes(context.request, most, tooLarge);
    return answered(context, bytes, (given) => handler(bytes, given));
  });
