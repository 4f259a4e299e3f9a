import { z } from 'zod';
import { CALLS_A_MINUTE, SCOPES } from '../../core/api/token.ts';
import { OPERATIONS } from './operations.ts';
import type { Operation } from './operation.ts';

type Json = Record<string, unknown>;

/** How an operation of the API is called from the base on. */
export const API_PATH = '/api/v1';

const problemSchema: Json = {
  type: 'object',
  description: 'Problem details, RFC 9457.',
  required: ['type', 'title', 'status', 'detail'],
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string', description: 'What is wrong and what to do about it.' },
    errors: {
      type: 'array',
      description: 'What is wrong, by field.',
      items: {
        type: 'object',
        required: ['field', 'detail'],
        properties: { field: { type: 'string' }, detail: { type: 'string' } },
      },
    },
  },
};

const upper = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1);

function jsonSchema(schema: z.ZodType, io: 'input' | 'output'): Json {
  const made = z.toJSONSchema(schema, { io, target: 'draft-2020-12', unrepresentable: 'any' }) as Json;
  delete made.$schema;
  return made;
}

/** Puts a schema among those that can be named, with the parts it repeats, and gives the reference to it. */
function named(components: Json, name: string, schema: z.ZodType, io: 'input' | 'output'): Json {
  const { $defs = {}, ...root } = jsonSchema(schema, io) as Json & { $defs?: Record<string, Json> };
  const moved = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(moved);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, part]) => {
        if (key !== '$ref' || typeof part !== 'string') return [key, moved(part)];
        const inner = part.startsWith('#/$defs/') ? `_${part.slice('#/$defs/'.length)}` : '';
        return [key, `#/components/schemas/${name}${inner}`];
      }),
    );
  };
  components[name] = moved(root);
  for (const [inner, part] of Object.entries($defs)) {
    components[`${name}_${inner}`] = moved(part);
  }
  return { $ref: `#/components/schemas/${name}` };
}

/** What a query may hold, each with its own schema. */
function parametersOf(operation: Operation): Json[] {
  const parts = [...operation.path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'integer', minimum: 1 },
  }));
  const query = Object.entries(operation.query?.shape ?? {}).map(([name, schema]) => {
    const { description, ...shape } = jsonSchema(schema as z.ZodType, 'input');
    return {
      name,
      in: 'query',
      required: !(schema as z.ZodType).safeParse(undefined).success,
      ...(description === undefined ? {} : { description }),
      schema: shape,
    };
  });
  const headers = [
    ...(operation.method !== 'GET'
      ? [
          {
            name: 'Idempotency-Key',
            in: 'header',
            required: operation.keyed,
            description: 'A new one for each new intent. The same one again does nothing twice.',
            schema: { type: 'string', minLength: 8, maxLength: 80 },
            example: '0d6f3c1e-morning-lift',
          },
        ]
      : []),
    ...(operation.overRevision
      ? [
          {
            name: 'If-Match',
            in: 'header',
            required: true,
            description: 'The ETag of what was read, so that nobody is overwritten unseen.',
            schema: { type: 'string', pattern: '^"\\d{1,15}(-[\\w-]{1,43})?"$' },
            example: '"2"',
          },
        ]
      : []),
  ];
  return [...parts, ...query, ...headers];
}

const problem = (description: string): Json => ({
  description,
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
});

function answersOf(operation: Operation, answer: Json | null): Json {
  const headers: Json = {
    ...(operation.revised
      ? { ETag: { description: 'The revision of what is answered.', schema: { type: 'string' } } }
      : {}),
    ...(operation.pages
      ? {
          Link: {
            description: 'Leads to the next page (RFC 8288); left out on the last.',
            schema: { type: 'string' },
          },
        }
      : {}),
    ...(operation.makes
      ? { Location: { description: 'Where what was made can be read.', schema: { type: 'string' } } }
      : {}),
  };
  return {
    [operation.makes ? '201' : answer ? '200' : '204']: {
      description: operation.makes ? 'It was made.' : answer ? 'What was asked for.' : 'It was done.',
      ...(Object.keys(headers).length > 0 ? { headers } : {}),
      ...(answer ? { content: { 'application/json': { schema: answer } } } : {}),
    },
    ...(operation.revised && operation.method === 'GET'
      ? { '304': { description: 'It is still as the ETag in If-None-Match says.' } }
      : {}),
    ...(operation.method !== 'GET'
      ? { '400': problem('The body is not JSON, or a header is not as it should be.') }
      : {}),
    '401': problem('The token is missing, has expired or was revoked.'),
    '403': problem('The token, or whoever made it, may not do that.'),
    ...(operation.path.includes('{')
      ? { '404': problem('There is no such thing, or it is not theirs to see.') }
      : {}),
    ...(operation.method === 'GET' ? {} : { '409': problem('It cannot be done as things stand.') }),
    ...(operation.overRevision
      ? {
          '412': problem('Somebody changed it meanwhile.'),
          '428': problem('The call does not say over which revision it is made.'),
        }
      : {}),
    ...(operation.body
      ? {
          '413': problem('The body is larger than a megabyte.'),
          '415': problem('The body is not sent as application/json.'),
        }
      : {}),
    ...(operation.body || operation.query || operation.method !== 'GET'
      ? { '422': problem('Something in it needs correcting; told by field.') }
      : {}),
    '429': problem(`A token makes at most ${CALLS_A_MINUTE} calls a minute. Retry-After says when to go on.`),
  };
}

/**
 * The description of the API (OpenAPI 3.1), made from the schemas that check what is sent and what is answered.
 *
 * @param base the address the API is reached at
 */
export function openApi(base: string): Json {
  const schemas: Json = { Problem: problemSchema };
  const paths: Record<string, Json> = {};
  for (const operation of OPERATIONS) {
    const body = operation.body && named(schemas, `${upper(operation.id)}Body`, operation.body, 'input');
    const answer =
      operation.answer && named(schemas, `${upper(operation.id)}Answer`, operation.answer, 'output');
    const parameters = parametersOf(operation);
    const needs = operation.scope === null ? '' : `Needs “${operation.scope}”.`;
    paths[operation.path] = {
      ...paths[operation.path],
      [operation.method.toLowerCase()]: {
        operationId: operation.id,
        tags: [operation.about],
        summary: operation.summary,
        description: [operation.description, needs].filter((part) => part !== '').join(' '),
        security: [{ token: [] }],
        ...(parameters.length > 0 ? { parameters } : {}),
        ...(body
          ? {
              requestBody: {
                required: true,
                content: {
                  'application/json': {
                    schema: body,
                    ...(operation.example === undefined ? {} : { example: operation.example }),
                  },
                },
              },
            }
          : {}),
        responses: answersOf(operation, answer),
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Clear Bell',
      version: '1',
      description: [
        'A program acts with a token, with the rights of whoever made it as they are at the moment of the call. Tokens are made under Gateways.',
        'Instants are RFC 3339 in UTC; wall-clock times are local, beside the IANA zone they are meant in. Errors are problem details (RFC 9457).',
        `A token makes at most ${CALLS_A_MINUTE} calls a minute; RateLimit-Policy and RateLimit say how many are left.`,
        'Lists come in pages, linked by Link headers.',
      ].join('\n\n'),
    },
    servers: [{ url: base }],
    tags: [...new Set(OPERATIONS.map(({ about }) => about))].map((name) => ({ name })),
    paths,
    components: {
      schemas,
      securitySchemes: {
        token: {
          type: 'http',
          scheme: 'bearer',
          description: Object.entries(SCOPES)
            .map(([scope, words]) => `${scope}: ${words}`)
            .join('\n'),
        },
      },
    },
  };
}
