/** A delivery later than this is late: the desk promises the second it was due. */
export const LATE_MS = 1_000;

/**
 * The value below which a share of the values lies, by the nearest-rank method: the smallest value with at least
 * that share of all at or below it. Null where there are none.
 *
 * @param share in (0, 1], such as 0.99
 */
export function percentile(values: readonly number[], share: number): number | null {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)] ?? null;
}
