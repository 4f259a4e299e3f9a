const SAFE_SCHEMES = new Set(['http:', 'https:', 'mailto:', 'tel:']);

/** Whether an address may stand behind a link: http, https, mail or telephone, and nothing that runs. */
export function isSafeLink(address: string): boolean {
  try {
    return SAFE_SCHEMES.has(new URL(address).protocol);
  } catch {
    return false;
  }
}
