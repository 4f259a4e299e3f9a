/**
 * What this device keeps for somebody: texts being written, answers not sent yet. Each under the person it is of, so that another
 * who signs in on it neither sees nor sends them. A browser that is full or keeps nothing is no error: then it is not kept, and
 * the caller is told.
 */

/** Who is signed in on this page, as the page says; empty where nobody is. */
export const me = (): string => document.body.dataset.me ?? '';

const placeOf = (name: string, person: string): string => `clear-bell:${person}:${name}`;

/** What is kept under a name; undefined where nothing is, or nothing that can be read. */
export function kept(name: string, person = me()): unknown {
  try {
    const text = localStorage.getItem(placeOf(name, person));
    return text === null ? undefined : (JSON.parse(text) as unknown);
  } catch {
    return undefined;
  }
}

/** Keeps a value under a name; false where this browser does not keep it. */
export function keep(name: string, value: unknown, person = me()): boolean {
  try {
    localStorage.setItem(placeOf(name, person), JSON.stringify(value));
    return true;
  } catch {
    return false;
  }
}

export function forget(name: string, person = me()): void {
  try {
    localStorage.removeItem(placeOf(name, person));
  } catch {
    // A browser that keeps nothing has nothing to forget.
  }
}

/**
 * Forgets the pages this device keeps for reading without a connection, so that the next person on it finds none. What
 * somebody wrote or answered and could not send stays, under their name alone, until they are back.
 */
export async function forgetPages(): Promise<void> {
  forget('pages-of', 'device');
  if ('caches' in window) for (const name of await caches.keys()) await caches.delete(name);
}
