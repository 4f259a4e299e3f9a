import type { Endpoints } from './endpoints.ts';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/** What a value is once it was written as JSON and read again. */
export type Json<T> = T extends { toJSON: () => infer Written }
  ? Json<Written>
  : T extends string | number | boolean | null | undefined
    ? T
    : T extends (...args: never) => unknown
      ? never
      : T extends ReadonlyMap<unknown, unknown> | ReadonlySet<unknown>
        ? object
        : { [Key in keyof T]: Json<T[Key]> };

/** What a value may be that is only read to be sent: lists and objects that nobody changes are taken as well. */
type Sent<T> = unknown extends T
  ? T
  : T extends string | number | boolean | null | undefined
    ? T
    : { readonly [Key in keyof T]: Sent<T[Key]> };

/** A part of a path: `[]` where the caller chooses it. A type with a placeholder in it is a key that an object need not have. */
// The empty type is meant: what has no key at all.
// eslint-disable-next-line @typescript-eslint/no-generated-empty-object-type
type Part<Text extends string> = Record<never, never> extends Record<Text, 1> ? '[]' : Text;
type Parts<Path extends string> = Path extends `${infer First}/${infer Rest}`
  ? `${Part<First>}/${Parts<Rest>}`
  : Part<Path>;
type WithoutQuery<Path extends string> = Path extends `${infer Before}?${string}` ? Before : Path;
/** The address of the endpoint that a path leads to. */
type Address<Path extends string> = Path extends Path ? Parts<WithoutQuery<Path>> : never;

type Route<M extends Method, Path extends string> = Endpoints[Address<Path> &
  keyof Endpoints] extends infer Module
  ? Module extends Record<M, { readonly types?: infer Types }>
    ? Exclude<Types, undefined>
    : never
  : never;

/** A path that leads to an endpoint with this method; never where there is none. */
export type PathTo<M extends Method, Path extends string> =
  Address<Path> extends keyof Endpoints
    ? Endpoints[Address<Path>] extends Record<M, unknown>
      ? Path
      : never
    : never;

/** What an endpoint takes as its body, as its Zod schema has it; undefined where it takes none. */
export type Takes<M extends Method, Path extends string> =
  Route<M, Path> extends { takes: infer Taken } ? Sent<Taken> : never;

/** What a handler gives as it comes: nothing is undefined, and what a response of its own holds is not known. */
type Answered<Given> = [Exclude<Given, Response>] extends [never] ? unknown : Read<Exclude<Given, Response>>;
type Read<Given> = Given extends unknown ? (undefined extends Given ? undefined : Json<Given>) : never;

/** What an endpoint answers, as the browser reads it; undefined where it answers nothing. */
export type Gives<M extends Method, Path extends string> =
  Route<M, Path> extends { gives: infer Given } ? Answered<Given> : never;
