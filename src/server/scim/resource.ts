import { createHash } from 'node:crypto';
import type { z } from 'zod';
import { noResource, ScimProblem } from './problem.ts';
import type { Span } from './store.ts';

/** Who asks, and under which address. */
export interface ScimCaller {
  client: { id: number; name: string };
  /** The address of the service, such as `https://bell.example/scim/v2`. */
  base: string;
}

/** A resource with its version, as it is told. */
export type Resource = Record<string, unknown> & { id: string; meta: Record<string, unknown> };

/** What a list is asked for by (RFC 7644, 3.4.2). */
export interface Asked {
  filter: string | null;
  span: Span;
}

export interface Listed {
  resources: Resource[];
  total: number;
  span: Span;
}

export const listed = (resources: Resource[], total: number, span: Span): Listed => ({
  resources,
  total,
  span,
});

/** A resource with the version (a weak ETag, RFC 9110) that follows from all that is told of it. */
export function versioned(resource: Resource): Resource {
  const sum = createHash('sha256').update(JSON.stringify(resource)).digest('base64url').slice(0, 22);
  return { ...resource, meta: { ...resource.meta, version: `W/"${sum}"` } };
}

/** A 412 problem where a change was asked for to another version than the one there is. */
export function requireVersion(resource: Resource, ifMatch: string | null): void {
  if (ifMatch === null || ifMatch.trim() === '*') return;
  const versions = ifMatch.split(',').map((each) => each.trim());
  if (!versions.includes(String(resource.meta.version)))
    throw new ScimProblem(412, 'It was changed since. Fetch it, and change that.');
}

/** Reads what was sent; a 400 problem that names the attribute where it does not fit. */
export function parsed<S extends z.ZodType>(schema: S, body: unknown): z.output<S> {
  const read = schema.safeParse(body);
  if (read.success) return read.data;
  const [first] = read.error.issues;
  const at = first?.path.join('.') ?? '';
  throw new ScimProblem(
    400,
    `${at === '' ? 'The resource' : at}: ${first?.message ?? 'does not fit'}`,
    at === '' ? 'invalidSyntax' : 'invalidValue',
  );
}

/** The id in an address; a 404 problem where it can be nobody's. */
export function idOf(id: string): number {
  if (!/^[1-9]\d{0,14}$/.test(id)) throw noResource(id);
  return Number(id);
}
