import { z } from 'zod';
import '../../core/schemaWords.ts';
import { Problem } from '../problem.ts';
import { appContext } from './appContext.ts';

/** A problem as problem details, RFC 9457. */
export function problemResponse(problem: Problem): Response {
  const retryAfter = problem.more.retryAfter;
  return new Response(
    JSON.stringify({
      type: 'about:blank',
      title: problem.title,
      status: problem.status,
      detail: problem.message,
      ...(problem.errors.length > 0 ? { errors: problem.errors } : {}),
      ...problem.more,
    }),
    {
      status: problem.status,
      headers: {
        'content-type': 'application/problem+json',
        'cache-control': 'no-store',
        ...(typeof retryAfter === 'number' ? { 'retry-after': String(retryAfter) } : {}),
      },
    },
  );
}

/** Input that does not fit its schema, as a problem that names each field. */
export function inputProblem(error: z.ZodError): Problem {
  const errors = error.issues.map((issue) => ({
    field: issue.path.join('.'),
    detail: issue.message,
  }));
  const [first] = errors;
  return new Problem(422, first ? first.detail : 'The input does not fit.', { errors });
}

/** MariaDB's errors that say that a value does not fit its column: too long, out of range, no such date, no such character. */
const DOES_NOT_FIT = new Set([1264, 1292, 1366, 1406, 1411, 1441, 3140]);

/** A value that the database could not keep, as a problem; nothing for any other error. */
function unkeepable(error: unknown): Problem | undefined {
  if (!(error instanceof Error) || !('errno' in error) || !DOES_NOT_FIT.has(Number(error.errno)))
    return undefined;
  return new Problem(
    422,
    'Something in it is too long, too large or of a kind that cannot be kept. Shorten it.',
  );
}

/** Any error as a response: what we know how to say is said, anything else is logged and apologised for. */
export function errorResponse(error: unknown): Response {
  if (error instanceof Problem) return problemResponse(error);
  if (error instanceof z.ZodError) return problemResponse(inputProblem(error));
  const unkept = unkeepable(error);
  if (unkept) {
    appContext().log.warn({ err: error }, 'a value that no schema bounds');
    return problemResponse(unkept);
  }
  appContext().log.error({ err: error }, 'request failed');
  return problemResponse(
    new Problem(500, 'Something went wrong on our side. Nothing was changed; try again.'),
  );
}
