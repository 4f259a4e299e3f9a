/** "a", "a and b", "a, b and c". */
export function list(parts: readonly string[], last: string): string {
  if (parts.length < 2) return parts[0] ?? '';
  return `${parts.slice(0, -1).join(', ')} ${last} ${parts.at(-1) ?? ''}`;
}

/** A count with its noun: `count(1, 'person', 'people')` is "1 person". Thousands are set off. */
export function count(n: number, one: string, many: string): string {
  return `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`;
}

export const people = (n: number): string => count(n, 'person', 'people');

/** A size of a file: 940 bytes, 12 kB, 3.4 MB. */
export function bytesWords(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  if (bytes < 1_000_000) return `${Math.round(bytes / 1000)} kB`;
  return `${(bytes / 1_000_000).toFixed(1)} MB`;
}
