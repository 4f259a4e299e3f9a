import type { Due } from '../load/clash.ts';
import { quietUntil, type Quiet } from '../timing/quiet.ts';
import { bundleEnd, mayWaitFor, type Bundleable, type Bundling } from './bundling.ts';

/** A going-out as far as bundling goes: what it is, and when it is due in which zone. */
export interface Going {
  what: Bundleable;
  dues: readonly Due[];
}

/** People who read by the same clock, are left in peace at the same hours, have their routine matter in the same way, and get the same of some goings-out. */
export interface Alike {
  zone: string;
  /** Their quiet hours, their own or everybody's; null where they have none. */
  quiet: Quiet | null;
  bundling: Bundling;
  /** Whether they get each of the others, in their order. */
  gets: readonly boolean[];
  people: number;
}

type Reading = Pick<Alike, 'zone' | 'quiet' | 'bundling'>;

/** When a going-out goes to a reader in a bundle; null where it does not wait for one. Milliseconds since 1970. */
export function bundledAt({ what, dues }: Going, { zone, quiet, bundling }: Reading): number | null {
  const due = dues.find((each) => each.zone === zone || each.zone === '') ?? dues.at(-1);
  if (!due) return null;
  // What falls in quiet hours reaches them when these end, and waits for a bundle from then on.
  const reachesMs = quietUntil(due.dueMs, zone, quiet);
  const end = bundleEnd(reachesMs, zone, bundling, quiet);
  return end > reachesMs && mayWaitFor(what, end) ? end : null;
}

/** What bundling makes of a going-out and of what else its readers get. */
export interface Together {
  /** For how many it waits for a bundle, and when the first and the last of these go. */
  waits: { people: number; firstMs: number; lastMs: number } | null;
  /** With which of the others it comes in one, by their place, and for how many people. */
  withOthers: { other: number; people: number }[];
  /** How many of its readers get how many things, a bundle counting as one; the fullest first. */
  load: { things: number; people: number }[];
}

/**
 * Works out what comes together for the readers of a going-out who also get others.
 *
 * @param mine null to work out only what readers get of the others
 */
export function together(mine: Going | null, others: readonly Going[], readers: readonly Alike[]): Together {
  const ends: number[] = [];
  let waiting = 0;
  const withOthers = new Map<number, number>();
  const load = new Map<number, number>();
  for (const { gets, people, ...reading } of readers) {
    const own = mine && bundledAt(mine, reading);
    if (own !== null) {
      ends.push(own);
      waiting += people;
    }
    const bundles = new Set(own === null ? [] : [own]);
    let alone = mine && own === null ? 1 : 0;
    others.forEach((other, i) => {
      if (gets[i] !== true) return;
      const end = bundledAt(other, reading);
      if (end === null) alone++;
      else {
        bundles.add(end);
        if (end === own) withOthers.set(i, (withOthers.get(i) ?? 0) + people);
      }
    });
    const things = alone + bundles.size;
    load.set(things, (load.get(things) ?? 0) + people);
  }
  return {
    waits: waiting === 0 ? null : { people: waiting, firstMs: Math.min(...ends), lastMs: Math.max(...ends) },
    withOthers: [...withOthers]
      .map(([other, people]) => ({ other, people }))
      .sort((a, b) => b.people - a.people),
    load: [...load].map(([things, people]) => ({ things, people })).sort((a, b) => b.things - a.things),
  };
}
