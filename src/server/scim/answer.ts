import { hashToken } from '../accounts/opening.ts';
import type { Database } from '../database/connection.ts';
import { readBytes, requireOrdinary } from '../http/body.ts';
import { Problem } from '../problem.ts';
import { MOST_LISTED, resourceTypes, schemas, serviceConfig } from './describe.ts';
import { addGroup, deleteGroup, listGroups, oneGroup, patchGroup, replaceGroup } from './groups.ts';
import { noResource, scimError, ScimProblem } from './problem.ts';
import type { Asked, Listed, Resource, ScimCaller } from './resource.ts';
import { clientByToken } from './store.ts';
import { addUser, deleteUser, listUsers, oneUser, patchUser, replaceUser } from './users.ts';

/** Most bytes of a body: a group of twenty thousand. */
const MOST_BYTES = 4_000_000;
const TYPE = 'application/scim+json';

interface Made {
  status: number;
  body: unknown;
  headers?: Record<string, string>;
}

const LIST = 'urn:ietf:params:scim:api:messages:2.0:ListResponse';

/** The attributes that are asked for, or those that are not (RFC 7644, 3.9), in small letters. */
function wishedOf(query: URLSearchParams): { only: Set<string> | null; but: Set<string> } {
  const named = (name: string): string[] =>
    (query.get(name) ?? '')
      .split(',')
      .map(
        (each) =>
          each
            .trim()
            .replace(/^urn:.*:/, '')
            .split('.')[0]
            ?.toLowerCase() ?? '',
      )
      .filter(Boolean);
  const only = named('attributes');
  return { only: only.length === 0 ? null : new Set(only), but: new Set(named('excludedAttributes')) };
}

const ALWAYS = new Set(['schemas', 'id', 'meta']);

function project(resource: Resource, { only, but }: ReturnType<typeof wishedOf>): Record<string, unknown> {
  if (only === null && but.size === 0) return resource;
  return Object.fromEntries(
    Object.entries(resource).filter(([name]) => {
      const key = name.toLowerCase();
      return ALWAYS.has(key) || (!but.has(key) && (only === null || only.has(key)));
    }),
  );
}

function askedOf(query: URLSearchParams): Asked {
  const whole = (name: string, none: number): number => {
    const text = query.get(name);
    if (text === null) return none;
    if (!/^-?\d{1,9}$/.test(text)) throw new ScimProblem(400, `${name} is a whole number.`, 'invalidValue');
    return Number(text);
  };
  const filter = query.get('filter');
  return {
    filter: filter === null || filter.trim() === '' ? null : filter,
    span: {
      from: Math.max(1, whole('startIndex', 1)) - 1,
      most: Math.min(MOST_LISTED, Math.max(0, whole('count', 100))),
    },
  };
}

const pageOf = ({ resources, total, span }: Listed, wished: ReturnType<typeof wishedOf>): Made => ({
  status: 200,
  body: {
    schemas: [LIST],
    totalResults: total,
    startIndex: span.from + 1,
    itemsPerPage: resources.length,
    Resources: resources.map((each) => project(each, wished)),
  },
});

const listOf = (found: Record<string, unknown>[]): Made => ({
  status: 200,
  body: {
    schemas: [LIST],
    totalResults: found.length,
    startIndex: 1,
    itemsPerPage: found.length,
    Resources: found,
  },
});

async function bodyOf(request: Request): Promise<unknown> {
  const type = (request.headers.get('content-type') ?? '').split(';')[0]?.trim();
  if (type !== TYPE && type !== 'application/json')
    throw new ScimProblem(415, `Send JSON, with the content type ${TYPE}.`);
  const tooLarge = new Problem(413, 'That is more than four megabytes. Send a group in parts.');
  const bytes = await readBytes(request, MOST_BYTES, tooLarge);
  let value: unknown;
  try {
    value = JSON.parse(bytes.toString('utf8'));
  } catch {
    throw new ScimProblem(400, 'The body is not JSON.', 'invalidSyntax');
  }
  requireOrdinary(value);
  return value;
}

function told(resource: Resource, wished: ReturnType<typeof wishedOf>, status = 200): Made {
  const { version, location } = resource.meta;
  return {
    status,
    body: project(resource, wished),
    headers: {
      etag: String(version),
      ...(status === 201 ? { location: String(location) } : {}),
    },
  };
}

/** What can be done with the resources of a kind. */
interface Collection {
  list: (db: Database, caller: ScimCaller, asked: Asked, withMembers: boolean) => Promise<Listed>;
  one: (db: Database, caller: ScimCaller, id: string, withMembers: boolean) => Promise<Resource>;
  add: (db: Database, caller: ScimCaller, body: unknown) => Promise<Resource>;
  replace: Change;
  patch: Change;
  remove: (db: Database, caller: ScimCaller, id: string, ifMatch: string | null) => Promise<void>;
}
type Change = (
  db: Database,
  caller: ScimCaller,
  id: string,
  body: unknown,
  ifMatch: string | null,
) => Promise<Resource>;

const COLLECTIONS: ReadonlyMap<string, Collection> = new Map([
  [
    'Users',
    {
      list: listUsers,
      one: oneUser,
      add: addUser,
      replace: replaceUser,
      patch: patchUser,
      remove: deleteUser,
    },
  ],
  [
    'Groups',
    {
      list: listGroups,
      one: oneGroup,
      add: addGroup,
      replace: replaceGroup,
      patch: patchGroup,
      remove: deleteGroup,
    },
  ],
]);

async function withResources(
  db: Database,
  caller: ScimCaller,
  collection: Collection,
  id: string | undefined,
  request: Request,
  query: URLSearchParams,
): Promise<Made> {
  const wished = wishedOf(query);
  const withMembers = !wished.but.has('members') && (wished.only === null || wished.only.has('members'));
  const ifMatch = request.headers.get('if-match');
  if (id === undefined)
    switch (request.method) {
      case 'GET':
        return pageOf(await collection.list(db, caller, askedOf(query), withMembers), wished);
      case 'POST':
        return told(await collection.add(db, caller, await bodyOf(request)), wished, 201);
      default:
        throw notSo(request.method);
    }
  switch (request.method) {
    case 'GET':
      return told(await collection.one(db, caller, id, withMembers), wished);
    case 'PUT':
      return told(await collection.replace(db, caller, id, await bodyOf(request), ifMatch), wished);
    case 'PATCH':
      return told(await collection.patch(db, caller, id, await bodyOf(request), ifMatch), wished);
    case 'DELETE':
      await collection.remove(db, caller, id, ifMatch);
      return { status: 204, body: null };
    default:
      throw notSo(request.method);
  }
}

const notSo = (method: string): ScimProblem => new ScimProblem(405, `${method} is not done here.`);

/** What describes the service itself: nobody's data, and asked for before there is a token by some clients. */
function described(base: string, [kind, id, ...rest]: string[]): Made | undefined {
  if (rest.length > 0) return undefined;
  const one = (found: Record<string, unknown>[]): Made => {
    if (id === undefined) return listOf(found);
    const resource = found.find((each) => each.id === id);
    if (!resource) throw noResource(id);
    return { status: 200, body: resource };
  };
  switch (kind) {
    case 'ServiceProviderConfig':
      return id === undefined ? { status: 200, body: serviceConfig(base) } : undefined;
    case 'ResourceTypes':
      return one(resourceTypes(base));
    case 'Schemas':
      return one(schemas(base));
    default:
      return undefined;
  }
}

async function made(db: Database, base: string, path: string[], request: Request, url: URL): Promise<Made> {
  const token = /^Bearer ([\w~+/.=-]{1,200})$/i.exec(request.headers.get('authorization') ?? '')?.[1];
  const client = token === undefined ? undefined : await clientByToken(db, hashToken(token));
  if (!client) throw new ScimProblem(401, 'Send the token of a system that keeps people here up to date.');
  if (request.method === 'GET') {
    const found = described(base, path);
    if (found) return found;
  }
  const [kind, id, ...rest] = path;
  const collection = COLLECTIONS.get(kind ?? '');
  if (rest.length === 0 && collection)
    return withResources(db, { client, base }, collection, id, request, url.searchParams);
  throw new ScimProblem(404, 'There is nothing at this address.');
}

const respond = ({ status, body, headers = {} }: Made): Response =>
  new Response(body === null ? null : JSON.stringify(body), {
    status,
    headers: { ...(body === null ? {} : { 'content-type': TYPE }), 'cache-control': 'no-store', ...headers },
  });

/**
 * Answers a request of SCIM 2.0 (RFC 7644).
 *
 * @param base the address of the service
 * @param path what follows it, in parts
 * @param failed is told of what nobody foresaw
 */
export async function answerScim(
  db: Database,
  base: string,
  path: string[],
  request: Request,
  failed: (error: unknown) => void,
): Promise<Response> {
  try {
    const url = new URL(request.url);
    const answer = await made(db, base, path, request, url);
    const unchanged =
      request.method === 'GET' &&
      answer.headers?.etag !== undefined &&
      (request.headers.get('if-none-match') ?? '')
        .split(',')
        .some((each) => each.trim() === answer.headers?.etag);
    return unchanged ? respond({ status: 304, body: null, headers: answer.headers ?? {} }) : respond(answer);
  } catch (error) {
    const problem =
      error instanceof ScimProblem
        ? error
        : error instanceof Problem
          ? new ScimProblem(error.status, error.message, error.status === 422 ? 'invalidValue' : null)
          : undefined;
    if (!problem) failed(error);
    const told =
      problem ?? new ScimProblem(500, 'Something went wrong here. Nothing was changed; try again.');
    return respond({
      status: told.status,
      body: scimError(told),
      headers: told.status === 401 ? { 'www-authenticate': 'Bearer realm="scim"' } : {},
    });
  }
}
