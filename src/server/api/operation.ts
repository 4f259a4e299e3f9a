import type { z } from 'zod';
import type { Scope } from '../../core/api/token.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import type { Settings } from '../settings.ts';

export type ApiSettings = Pick<
  Settings,
  'CLEAR_BELL_SECRET' | 'CLEAR_BELL_URL' | 'MAIL_FROM' | 'MAIL_IN_DOMAIN' | 'LOOKUP_ORIGINS'
>;

/** What an operation is called with. */
export interface ApiCall<Query = unknown, Body = unknown> {
  db: Database;
  /** Whose token it is, with their rights as they are now. */
  actor: Actor;
  /** Their zone. */
  zone: string;
  query: Query;
  body: Body;
  /** The whole number a part of the path stands for. */
  id: (name?: string) => number;
  /** The Idempotency-Key of the call, bound to it. */
  key: string;
  /** The revision the call was made over (If-Match); 0 where the operation asks for none. */
  revision: number;
  /** What operators set, as far as operations depend on it. */
  settings: ApiSettings;
  token: { name: string; scopes: readonly Scope[]; expiresMs: number };
}

/** What an operation answers. */
export interface Answered<A> {
  body: A;
  /** The revision of what is answered: becomes its ETag. */
  revision?: number;
  /** Where the page after this one begins: becomes a link. */
  after?: string | null;
  /** The path of what was made, under that of the API. */
  location?: string;
}

/** An operation with nothing left of what it was declared with. */
export interface Operation {
  /** A name of its own, for generated clients. */
  id: string;
  method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  /** Under that of the API, with parts such as `{id}`. */
  path: string;
  /** What it is about: the heading it stands under. */
  about: string;
  /** What a token needs for it; null where any token will do. */
  scope: Scope | null;
  summary: string;
  description: string;
  query: z.ZodObject | null;
  body: z.ZodType | null;
  /** How many bytes its body may have; null for as many as any. */
  mostBytes: number | null;
  /** Of a successful answer; null where nothing is answered. */
  answer: z.ZodType | null;
  /** Whether it makes something. */
  makes: boolean;
  /** Whether it answers in pages, linked to each other. */
  pages: boolean;
  /** Whether the answer carries a revision, as its ETag. */
  revised: boolean;
  /** Whether it must say over which revision it changes something. */
  overRevision: boolean;
  /** Whether it must carry an Idempotency-Key. */
  keyed: boolean;
  /** A body that can be sent as it is. */
  example: unknown;
  run: (call: ApiCall) => Promise<Answered<unknown>>;
}

interface Declared<Q extends z.ZodObject, B extends z.ZodType, A extends z.ZodType> {
  id: string;
  scope?: Scope;
  summary: string;
  description?: string;
  query?: Q;
  body?: B;
  mostBytes?: number;
  answer?: A;
  makes?: boolean;
  pages?: boolean;
  revised?: boolean;
  overRevision?: boolean;
  keyed?: boolean;
  example?: z.input<B>;
  run: (call: ApiCall<z.output<Q>, z.output<B>>) => Promise<Answered<z.input<A>> | undefined>;
}

/** Declares operations about something: what each takes is checked, and what it answers is nothing but what is declared. */
export const operationsAbout =
  (about: string) =>
  <Q extends z.ZodObject, B extends z.ZodType, A extends z.ZodType>(
    request: `${Operation['method']} /${string}`,
    declared: Declared<Q, B, A>,
  ): Operation => {
    const [method, path] = request.split(' ') as [Operation['method'], string];
    return {
      about,
      method,
      path,
      id: declared.id,
      scope: declared.scope ?? null,
      summary: declared.summary,
      description: declared.description ?? '',
      query: declared.query ?? null,
      body: declared.body ?? null,
      mostBytes: declared.mostBytes ?? null,
      answer: declared.answer ?? null,
      makes: declared.makes ?? false,
      pages: declared.pages ?? false,
      revised: declared.revised ?? false,
      overRevision: declared.overRevision ?? false,
      keyed: declared.keyed ?? false,
      example: declared.example,
      run: async (call) =>
        (await declared.run(call as ApiCall<z.output<Q>, z.output<B>>)) ?? { body: undefined },
    };
  };
