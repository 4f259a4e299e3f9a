/** Forgets what this device keeps for reading without a connection, so that the next person on it finds nothing. */
export async function forgetKept(): Promise<void> {
  localStorage.removeItem('answers-kept');
  localStorage.removeItem('kept-for');
  if ('caches' in window) for (const name of await caches.keys()) await caches.delete(name);
}
