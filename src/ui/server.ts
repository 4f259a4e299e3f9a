import {
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
import { ApiProblem, ask } from './api.ts';
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
export function useServer<T>(
  path: string | null,
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
      queryFn: ({ signal }) => ask<T>('GET', path ?? '', undefined, undefined, signal),
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
export function useServerPages<P, C>(options: {
  path: (after: C | null) => string;
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
        ask<P>('GET', path(pageParam as C | null), undefined, undefined, signal),
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
export function useServerParts<T>(
  paths: readonly string[],
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
        queryFn: ({ signal }: { signal: AbortSignal }) => ask<T>('GET', path, undefined, undefined, signal),
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

/** A path with more in its query; what is empty or nothing is left out. */
export function pathWith(path: string, query: Record<string, string | number | null | undefined>): string {
  const given = Object.entries(query).flatMap(([key, value]) =>
    value === null || value === undefined || value === '' ? [] : [[key, String(value)]],
  );
  return given.length === 0
    ? path
    : `${path}${path.includes('?') ? '&' : '?'}${new URLSearchParams(given).toString()}`;
}

/** Has what begins with a path fetched again by all who show it: after something of it was changed here. */
export const refetch = (path: string): Promise<void> =>
  ofPage.invalidateQueries({
    predicate: ({ queryKey: [key] }) => typeof key === 'string' && key.startsWith(path),
  });
