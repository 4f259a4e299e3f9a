import type { APIContext, APIRoute } from 'astro';
import type { z } from 'zod';
import type { Session } from '../accounts/service.ts';
import { bytesWords } from '../../core/words.ts';
import { Problem } from '../problem.ts';
import { house, type House } from './house.ts';
import { errorResponse } from './problemDetails.ts';

const MOST_BYTES = 1_000_000;

/** Reads a body of at most so many bytes. */
async function readBytes(request: Request, most: number, tooLarge: Problem): Promise<Buffer> {
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge;
  const chunks: Uint8Array[] = [];
  let size = 0;
  // Node's streams can be iterated; the browser types do not say so.
  const body = request.body as unknown as AsyncIterable<Uint8Array> | null;
  for await (const chunk of body ?? []) {
    size += chunk.byteLength;
    if (size > most) throw tooLarge;
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

/** Reads a JSON body of at most a megabyte. */
async function readJson(request: Request): Promise<unknown> {
  if (!(request.headers.get('content-type') ?? '').startsWith('application/json'))
    throw new Problem(415, 'Send JSON, with the content type application/json.');
  const bytes = await readBytes(
    request,
    MOST_BYTES,
    new Problem(413, 'That is more than a megabyte. Shorten it.'),
  );
  try {
    return JSON.parse(bytes.toString('utf8'));
  } catch {
    throw new Problem(400, 'The body is not JSON.');
  }
}

/** What a handler is given: the house, the request, and who is signed in. */
export interface Call extends House {
  session: Session;
  context: APIContext;
  /** The whole number a parameter of the path stands for; a 404 problem where it is none. */
  id: (name?: string) => number;
  /** The caller's Idempotency-Key; a 400 problem where there is none. */
  idempotencyKey: () => string;
}

function wholeNumber(text: string | undefined): number {
  if (!text || !/^[1-9]\d{0,14}$/.test(text)) throw new Problem(404, 'There is nothing at this address.');
  return Number(text);
}

function call(context: APIContext): Call {
  const { session } = context.locals;
  if (!session) throw new Problem(401, 'Your session has ended. Sign in again; what you wrote is kept.');
  return {
    ...house(),
    session,
    context,
    id: (name = 'id') => wholeNumber(context.params[name]),
    idempotencyKey: () => {
      const key = context.request.headers.get('idempotency-key') ?? '';
      if (!/^[\x21-\x7e]{8,80}$/.test(key))
        throw new Problem(
          400,
          'Send an Idempotency-Key header of 8 to 80 characters, a new one for each new intent.',
        );
      return key;
    },
  };
}

function respond(result: unknown): Response {
  if (result instanceof Response) return result;
  if (result === undefined) return new Response(null, { status: 204 });
  return Response.json(result, { headers: { 'cache-control': 'no-store' } });
}

/** An endpoint for those who are signed in, without a body. What the handler gives is answered as JSON. */
export function endpoint(handler: (call: Call) => unknown): APIRoute {
  return async (context) => {
    try {
      return respond(await handler(call(context)));
    } catch (error) {
      return errorResponse(error);
    }
  };
}

/** An endpoint for those who are signed in, whose JSON body must fit a schema. */
export function endpointWith<S extends z.ZodType>(
  schema: S,
  handler: (input: z.output<S>, call: Call) => unknown,
): APIRoute {
  return endpoint(async (given) => handler(schema.parse(await readJson(given.context.request)), given));
}

/** An endpoint for anybody, whose JSON body must fit a schema. */
export function openEndpointWith<S extends z.ZodType>(
  schema: S,
  handler: (input: z.output<S>, context: APIContext) => unknown,
): APIRoute {
  return async (context) => {
    try {
      return respond(await handler(schema.parse(await readJson(context.request)), context));
    } catch (error) {
      return errorResponse(error);
    }
  };
}

/** An endpoint for those who are signed in, whose body is the bytes of a file of at most so many. */
export function endpointWithFile(most: number, handler: (bytes: Buffer, call: Call) => unknown): APIRoute {
  return endpoint(async (given) => {
    const detail = `The file has more than ${bytesWords(most)}. Make it smaller, or put it behind a link.`;
    const tooLarge = new Problem(413, detail, { errors: [{ field: 'file', detail }] });
    return handler(await readBytes(given.context.request, most, tooLarge), given);
  });
}
