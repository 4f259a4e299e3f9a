/** A generator of numbers in [0, 1) that gives the same row for the same seed (mulberry32). */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** One of these, by the generator. */
export function pick<T>(random: () => number, from: readonly [T, ...T[]]): T {
  return from[Math.floor(random() * from.length)] ?? from[0];
}
