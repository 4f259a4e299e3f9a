import { bytesWords } from '../../core/words.ts';
import { Problem } from '../problem.ts';

/** Most bytes of a JSON body. */
const MOST_JSON = 1_000_000;
/** Most bytes of a form on a page: a name, an address, a password. */
const MOST_FORM = 20_000;
const MOST_FORM_FIELDS = 50;
const MOST_DEPTH = 64;
const MOST_VALUES = 200_000;

/** Reads a body of at most so many bytes, and no further. */
export async function readBytes(request: Request, most: number, tooLarge: Problem): Promise<Buffer> {
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

/**
 * Refuses what no schema should have to walk: a value nested too deep or of too many parts, and text that is not whole
 * characters (half of a surrogate pair, or a null), which could not be kept or shown as it was written.
 *
 * @throws 422 with the path of the field at fault
 */
export function requireOrdinary(value: unknown): void {
  const open: { value: unknown; path: string; depth: number }[] = [{ value, path: '', depth: 0 }];
  let seen = 0;
  const refuse = (path: string, detail: string): Problem =>
    new Problem(422, detail, { errors: [{ field: path, detail }] });
  for (let next = open.pop(); next; next = open.pop()) {
    const { value: part, path, depth } = next;
    if (++seen > MOST_VALUES)
      throw refuse('', `It has more than ${MOST_VALUES.toLocaleString('en-GB')} parts. Make it smaller.`);
    if (typeof part === 'string' && (!isWhole(part) || part.includes('\u0000')))
      throw refuse(path, 'It holds a character that is not whole and cannot be kept. Write that place anew.');
    if (typeof part !== 'object' || part === null) continue;
    // Its beginning is enough to find the place.
    if (depth >= MOST_DEPTH)
      throw refuse(
        path.split('.').slice(0, 6).join('.'),
        `It is nested more than ${MOST_DEPTH} levels deep. Make it simpler.`,
      );
    for (const [name, inner] of Object.entries(part)) {
      if (!isWhole(name)) throw refuse(path, 'The name of a field is not whole characters.');
      open.push({ value: inner, path: path === '' ? name : `${path}.${name}`, depth: depth + 1 });
    }
  }
}

/** Whether a text has no half of a surrogate pair (String.prototype.isWellFormed, which the types do not know yet). */
const isWhole = (text: string): boolean => !/\p{Surrogate}/u.test(text);

/** Reads a JSON body of at most a megabyte, or as many bytes as are said; gives it with its bytes. */
export async function readJson(
  request: Request,
  most = MOST_JSON,
): Promise<{ value: unknown; bytes: Buffer }> {
  if (!(request.headers.get('content-type') ?? '').startsWith('application/json'))
    throw new Problem(415, 'Send JSON, with the content type application/json.');
  const bytes = await readBytes(
    request,
    most,
    new Problem(413, `That is more than ${bytesWords(most)}. Shorten it.`),
  );
  let value: unknown;
  try {
    value = JSON.parse(bytes.toString('utf8'));
  } catch {
    throw new Problem(400, 'The body is not JSON.');
  }
  requireOrdinary(value);
  return { value, bytes };
}

/**
 * Reads the form of a page: the fields by name, of at most twenty kilobytes and fifty fields. Forms with files are not
 * read here.
 *
 * @throws 413 where it is too large, 415 where it is of another kind, 422 where a field is not whole characters
 */
export async function readForm(request: Request): Promise<ReadonlyMap<string, string>> {
  const type = request.headers.get('content-type') ?? '';
  // A mail program's one-click request (RFC 8058) may come as either kind; only the plain one is asked for.
  if (!type.startsWith('application/x-www-form-urlencoded'))
    throw new Problem(415, 'Send the form as application/x-www-form-urlencoded.');
  const bytes = await readBytes(request, MOST_FORM, new Problem(413, 'That is too much for this form.'));
  const fields = new Map<string, string>();
  for (const [name, value] of new URLSearchParams(bytes.toString('utf8'))) {
    if (fields.size >= MOST_FORM_FIELDS) throw new Problem(413, 'That is too much for this form.');
    if (!fields.has(name)) fields.set(name, value);
  }
  requireOrdinary(Object.fromEntries(fields));
  return fields;
}
