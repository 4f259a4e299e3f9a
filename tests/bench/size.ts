/** Whether a part is to prove only that it runs. */
export const TINY = process.env.BENCH_SIZE === 'tiny';

/** How many of something a part works with: with `BENCH_SIZE=tiny` a two-hundredth, which proves that it runs and measures nothing. */
export const sized = (n: number): number => (TINY ? Math.ceil(n / 200) : n);

/** How often a part does something: with `BENCH_SIZE=tiny` once. */
export const times = (n: number): number => (TINY ? 1 : n);

export const seconds = (ms: number): string => `${(ms / 1000).toFixed(2)} s`;

/** What some work gives, and how many milliseconds it took. */
export async function timed<T>(work: () => Promise<T>): Promise<[T, number]> {
  const began = performance.now();
  const result = await work();
  return [result, performance.now() - began];
}

/** A number from 0 to 1 that is the same in every run of a seed (mulberry32). */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = Math.trunc(state + 0x6d2b79f5);
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}
