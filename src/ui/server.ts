import {
  hashKey,
  keepPreviousData,
  QueryClient,
  useInfiniteQuery,
  useQueries,
  useQuery,
  type InfiniteData,
  type UseInfiniteQueryResult,
  type UseQueryResult,
} from '@tanstack/react-query';
import { useCallback, useMemo } from 'react';
import { ApiProblem, requestAnywhere } from './api.ts';
import type { Gives, PathTo, Takes } from './client.ts';
import { useLive } from './useLive.ts';

const makeClient = (): QueryClient =>
  new QueryClient({
    defaultOptions: {
      queries: {
        // What changes is told by live updates; without a connection the page says so and keeps what was read.
        staleTime: Infinity,
        refetchOnWindowFocus: false,
        retry: (attempts, problem) => problem instanceof ApiProblem && problem.status === 0 && attempts < 2,
      },
    },
  });

/** What the page has of the server, shared by all its islands. */
const ofPage = makeClient();

/** Where a page is made on the server nothing is kept from one reader to the next: each use begins with what it was given. */
const clientHere = (): QueryClient => (typeof document === 'undefined' ? makeClient() : ofPage);

/** What was worked out of something that changes as it is written is not wanted for long. */
const WORKED_OUT_MS = 60_000;
/** How long it is shown without being worked out anew, where it comes into sight again. */
const FRESH_MS = 5_000;

const NO_TOPICS: readonly string[] = [];

/**
 * What an endpoint answers to a GET, kept by its path: fetched once however many ask, dropped where it is not wanted any
 * more, and fetched again after something of its topics changed.
 *
 * @param path null where nothing is wanted
 * @param options.first what the page came with, so that it is not fetched at once
 * @param options.topics the live topics after which it is fetched again; they may follow from what it gave
 * @param options.keepPrevious whether what another path gave stays in sight until this one's has come
 * @param options.everyMs how often it is fetched besides, in milliseconds; for what tells nobody that it goes on
 */
export function useServer<Path extends string, T = Gives<'GET', Path>>(
  path: PathTo<'GET', Path> | null,
  options: {
    first?: T | undefined;
    topics?: readonly string[] | ((data: T) => readonly string[]);
    keepPrevious?: boolean;
    everyMs?: (data: T | undefined) => number | false;
  } = {},
): UseQueryResult<T> {
  const { first, topics = NO_TOPICS, keepPrevious = false, everyMs } = options;
  const query = useQuery<T>(
    {
      queryKey: [path],
      queryFn: ({ signal }) => requestAnywhere<T>('GET', path ?? '', undefined, undefined, signal),
      enabled: path !== null,
      ...(first === undefined ? {} : { initialData: first as never }),
      ...(keepPrevious ? { placeholderData: keepPreviousData } : {}),
      ...(everyMs ? { refetchInterval: ({ state }) => everyMs(state.data) } : {}),
    },
    clientHere(),
  );
  const again = useCallback(() => ofPage.invalidateQueries({ queryKey: [path] }), [path]);
  const named =
    typeof topics !== 'function' ? topics : query.data === undefined ? NO_TOPICS : topics(query.data);
  useLive(named, again);
  return query;
}

/**
 * What an endpoint works out of something that is not saved yet, kept by what it was given: worked out once, dropped where something
 * else is wanted meanwhile, and what was worked out before stays in sight until the next has come.
 *
 * @param path null where nothing is wanted
 * @param given what it is worked out of; JSON
 * @param options.first what the page came with, and what that was worked out of
 * @param options.keepPrevious whether what was worked out before stays in sight; true where not said
 */
export function useWorkedOut<Path extends string, T = Gives<'POST', Path>>(
  path: PathTo<'POST', Path> | null,
  given: Takes<'POST', Path>,
  options: { first?: { given: unknown; found: T }; keepPrevious?: boolean } = {},
): UseQueryResult<T> {
  const { first, keepPrevious = true } = options;
  return useQuery<T>(
    {
      queryKey: [path, given],
      queryFn: ({ signal }) => requestAnywhere<T>('POST', path ?? '', given, undefined, signal),
      enabled: path !== null,
      gcTime: WORKED_OUT_MS,
      staleTime: FRESH_MS,
      ...(first && hashKey([first.given]) === hashKey([given]) ? { initialData: first.found as never } : {}),
      ...(keepPrevious ? { placeholderData: keepPreviousData } : {}),
    },
    clientHere(),
  );
}

/** Has an endpoint work something out now; whoever shows it has it too. */
export const workOut = <Path extends string>(
  path: PathTo<'POST', Path>,
  given: Takes<'POST', Path>,
): Promise<Gives<'POST', Path>> =>
  ofPage.query({
    queryKey: [path, given],
    queryFn: ({ signal }) => requestAnywhere<Gives<'POST', Path>>('POST', path, given, undefined, signal),
    gcTime: WORKED_OUT_MS,
    staleTime: 0,
  });

/** More pages than this are not fetched again as they are being read; what changes is looked for at the head of a list. */
const MOST_FETCHED_AGAIN = 2;

/**
 * A list an endpoint gives page by page. What another list gave stays in sight until this one's first page has come.
 *
 * @param options.path the path of a page, after the last of the one before
 * @param options.next what the next page comes after; null where there is none
 * @param options.first the page the island came with, and its path
 * @param options.topics the live topics after which it is fetched again
 */
export function useServerPages<Path extends string, C, P = Gives<'GET', Path>>(options: {
  path: (after: C | null) => PathTo<'GET', Path>;
  next: (page: P) => C | null;
  first?: { path: string; page: P };
  topics?: readonly string[];
}): UseInfiniteQueryResult<InfiniteData<P, C | null>> {
  const { path, next, first, topics = NO_TOPICS } = options;
  const base = path(null);
  const query = useInfiniteQuery<P, Error, InfiniteData<P, C | null>, [string], C | null>(
    {
      queryKey: [base],
      queryFn: ({ pageParam, signal }) =>
        requestAnywhere<P>('GET', path(pageParam as C | null), undefined, undefined, signal),
      initialPageParam: null,
      getNextPageParam: (page) => next(page) ?? undefined,
      placeholderData: keepPreviousData,
      ...(first?.path === base ? { initialData: { pages: [first.page], pageParams: [null] } } : {}),
    },
    clientHere(),
  );
  const pages = query.data?.pages.length ?? 0;
  const again = useCallback(
    () => (pages <= MOST_FETCHED_AGAIN ? ofPage.invalidateQueries({ queryKey: [base] }) : undefined),
    [base, pages],
  );
  useLive(topics, again);
  return query;
}

/**
 * Parts of a long list, each kept by its path: only those that are in sight are asked for.
 *
 * @param options.first the part the island came with, and its path
 * @param options.topics the live topics after which those in sight are fetched again
 * @returns of each path what it gave; undefined until it has come
 */
export function useServerParts<Path extends string, T = Gives<'GET', Path>>(
  paths: readonly PathTo<'GET', Path>[],
  options: { first?: { path: string; part: T }; topics?: readonly string[] } = {},
): { parts: (T | undefined)[]; error: Error | null } {
  const { first, topics = NO_TOPICS } = options;
  const all = paths.join('\n');
  const firstPath = first?.path;
  const firstPart = first?.part;
  // The same queries are the same array, or each drawing would begin another.
  const queries = useMemo(
    () =>
      (all === '' ? [] : all.split('\n')).map((path) => ({
        queryKey: [path],
        queryFn: ({ signal }: { signal: AbortSignal }) =>
          requestAnywhere<T>('GET', path, undefined, undefined, signal),
        ...(firstPath === path ? { initialData: firstPart } : {}),
      })),
    [all, firstPath, firstPart],
  );
  const found = useQueries({ queries }, clientHere());
  const again = useCallback(
    () => Promise.all(all.split('\n').map((path) => ofPage.invalidateQueries({ queryKey: [path] }))),
    [all],
  );
  useLive(topics, again);
  return {
    parts: found.map(({ data }) => data),
    error: found.find(({ error }) => error !== null)?.error ?? null,
  };
}

/** A path with more in its query; what is empty or nothing is left out. It leads where the path leads. */
export function pathWith<Path extends string>(
  path: Path,
  query: Record<string, string | number | null | undefined>,
): Path {
  const given = Object.entries(query).flatMap(([key, value]) =>
    value === null || value === undefined || value === '' ? [] : [[key, String(value)]],
  );
  return given.length === 0
    ? path
    : (`${path}${path.includes('?') ? '&' : '?'}${new URLSearchParams(given).toString()}` as Path);
}

/** Puts in place of what a path gave what something done here answered; what is being fetched meanwhile is dropped. */
export async function setServer<Path extends string>(
  path: PathTo<'GET', Path>,
  data: Gives<'GET', Path>,
): Promise<void> {
  await ofPage.cancelQueries({ queryKey: [path], exact: true });
  ofPage.setQueryData([path], data);
}

/** Lets go of all that was fetched, as a page does that is opened anew. */
export const letGo = (): void => ofPage.clear();

/** Has what begins with a path fetched again by all who show it: after something of it was changed here. */
export const refetch = (path: string): Promise<void> =>
  ofPage.invalidateQueries({
    predicate: ({ queryKey: [key] }) => typeof key === 'string' && key.startsWith(path),
  });
