import type { Gives, Method, PathTo, Takes } from './client.ts';

/** What an endpoint answered instead of doing what was asked: problem details, RFC 9457. */
export class ApiProblem extends Error {
  readonly status: number;
  readonly errors: { field: string; detail: string }[];
  /** The whole problem document, for members particular to one endpoint. */
  readonly document: Record<string, unknown>;

  constructor(status: number, document: Record<string, unknown>) {
    super(typeof document.detail === 'string' ? document.detail : 'That did not work. Try again.');
    this.status = status;
    this.errors = Array.isArray(document.errors)
      ? (document.errors as { field: string; detail: string }[])
      : [];
    this.document = document;
  }

  /** What is wrong with one field, or nothing. */
  about(field: string): string | undefined {
    return this.errors.find((error) => error.field === field)?.detail;
  }
}

/** A key for one intent: sent again with the same key, a request is carried out once. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** Of what an endpoint is asked for with: its body, where it takes one, a key for the intent, and what ends the request. */
type With<Body> = undefined extends Body
  ? [body?: Body, key?: string, signal?: AbortSignal]
  : [body: Body, key?: string, signal?: AbortSignal];

/**
 * Asks an endpoint. Its path must be known as it is written, and what is sent and what comes are of the endpoint's own types.
 *
 * @throws ApiProblem where it refuses, or with status 0 where it cannot be reached
 */
export const request = <M extends Method, Path extends string>(
  method: M,
  path: PathTo<M, Path>,
  ...[body, key, signal]: With<Takes<M, Path>>
): Promise<Gives<M, Path>> => requestAnywhere(method, path, body, key, signal);

/**
 * Asks an endpoint of which only a program knows the path, such as one that was kept to be sent later: whoever calls says what it
 * gives, and nothing checks it.
 *
 * @throws ApiProblem where it refuses, or with status 0 where it cannot be reached
 */
export async function requestAnywhere<T>(
  method: Method,
  path: string,
  body?: unknown,
  key?: string,
  signal?: AbortSignal,
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(key === undefined ? {} : { 'idempotency-key': key }),
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      ...(signal ? { signal } : {}),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    dispatchEvent(new Event('unreachable'));
    throw new ApiProblem(0, {
      detail: 'Clear Bell cannot be reached just now. Check the connection and try again.',
    });
  }
  dispatchEvent(new Event('reachable'));
  const text = await response.text();
  const answer: unknown =
    text && (response.headers.get('content-type') ?? '').includes('json') ? JSON.parse(text) : undefined;
  if (response.status === 401) dispatchEvent(new Event('session-over'));
  if (!response.ok) throw new ApiProblem(response.status, (answer ?? {}) as Record<string, unknown>);
  return answer as T;
}

export const wordsOf = (error: unknown): string =>
  error instanceof Error ? error.message : 'That did not work. Try again.';

/** What went wrong, as exactly as it was told: the first field that is wrong, else the whole. */
export const exactWordsOf = (error: unknown): string =>
  (error instanceof ApiProblem ? error.errors[0]?.detail : undefined) ?? wordsOf(error);

/** Sends the bytes of a file; gives what the server kept of it. */
export const upload = <T>(file: File, as: 'image' | 'file' | 'video' | 'captions'): Promise<T> =>
  sendFile<T>(`/api/uploads?as=${as}&name=${encodeURIComponent(file.name.slice(-200))}`, file);

/** Sends the bytes of a file to an endpoint; gives what it answers. */
export async function sendFile<T>(path: string, file: Blob): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    });
  } catch {
    throw new ApiProblem(0, {
      detail: 'The file could not be sent. It may be too large, or the connection was lost. Try again.',
    });
  }
  const answer = (await response.json()) as unknown;
  if (!response.ok) throw new ApiProblem(response.status, answer as Record<string, unknown>);
  return answer as T;
}
