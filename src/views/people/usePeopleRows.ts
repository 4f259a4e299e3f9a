import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import { PEOPLE_PART, type PeoplePage } from '../../core/people/person.ts';
import { pathWith, useServerParts } from '../../ui/server.ts';
import type { Listed } from './columns.tsx';

const ROW_PX = 64;
const TOPICS = ['people'];
/** What is in sight before the page has been measured. */
const AT_FIRST = { width: 1024, height: 640 };

/** The path of some rows that follow each other. */
export const partPath = (query: Record<string, string>, part: number): '/api/people' =>
  pathWith('/api/people', { ...query, from: part === 0 ? '' : String(part * PEOPLE_PART) });

/** The rows of a list of people that are in sight: those are read, and no others. */
export function usePeopleRows(
  count: number,
  query: Record<string, string>,
  first: { path: string; part: PeoplePage },
) {
  const box = useRef<HTMLDivElement>(null);
  // The list's own measuring is not for the compiler to memoise.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
    initialRect: AT_FIRST,
  });
  const asked = partPath(query, 0);
  useEffect(() => {
    // Another list begins at its head.
    if (box.current) box.current.scrollTop = 0;
  }, [asked]);
  const items = virtual.getVirtualItems();
  const partOf = (index: number): number => Math.floor(index / PEOPLE_PART);
  const from = partOf(items[0]?.index ?? 0);
  const to = partOf(items.at(-1)?.index ?? 0);
  const wanted = Array.from({ length: to - from + 1 }, (_, i) => from + i);
  const { parts, error } = useServerParts(
    wanted.map((part) => partPath(query, part)),
    { first, topics: TOPICS },
  );
  const listedAt = (index: number): Listed | undefined => {
    const part = parts[partOf(index) - from];
    const person = part?.people[index % PEOPLE_PART];
    return (
      part &&
      person && { person, access: part.access[person.id], attributes: part.attributes[person.id] ?? {} }
    );
  };
  return { box, virtual, items, listedAt, error };
}

/** The people between two places of the list, as far as they have been read. */
export function idsBetween(
  one: number,
  other: number,
  listedAt: (index: number) => Listed | undefined,
): number[] {
  const ids: number[] = [];
  for (let at = Math.min(one, other); at <= Math.max(one, other); at++) {
    const listed = listedAt(at);
    if (listed) ids.push(listed.person.id);
  }
  return ids;
}
