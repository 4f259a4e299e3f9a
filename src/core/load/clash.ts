/** When something reaches the readers of a zone, or everybody where `zone` is ''. Milliseconds since 1970. */
export interface Due {
  zone: string;
  dueMs: number;
}

/**
 * The zones in which two goings-out reach people within so long of each other: 'all' where neither goes by readers'
 * clocks. A send that takes a day to go round the world clashes only with what comes near its hour in that zone.
 */
export function clashingZones(a: readonly Due[], b: readonly Due[], withinMs: number): 'all' | string[] {
  const near = (x: Due, y: Due): boolean => Math.abs(x.dueMs - y.dueMs) < withinMs;
  const zones = new Set<string>();
  for (const x of a)
    for (const y of b) {
      if (!near(x, y)) continue;
      if (x.zone === '' && y.zone === '') return 'all';
      if (x.zone === y.zone || x.zone === '' || y.zone === '') zones.add(x.zone || y.zone);
    }
  return [...zones].sort();
}
