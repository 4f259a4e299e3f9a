const SAFE_SCHEMES = new Set(['http:', 'https:', 'mailto:', 'tel:']);

/** Whether an address may stand behind a link: http, https, mail or telephone, and nothing that runs. */
export function isSafeLink(address: string): boolean {
  try {
    return SAFE_SCHEMES.has(new URL(address).protocol);
  } catch {
    return false;
  }
}

const SCHEME = /^(https?:\/\/|mailto:|tel:)/i;

/**
 * What somebody typed or pasted as an address, completed: without a scheme it is a mail address or a place on the web; a
 * scheme that stands before another one, left over from a field, is dropped. What is neither is given back as it is.
 */
export function completedLink(typed: string): string {
  const text = typed.trim().replace(/^(https?:\/\/)+(?=(https?:\/\/|mailto:|tel:))/i, '');
  if (text === '' || SCHEME.test(text)) return text;
  const completed = /^[^\s@/]+@[^\s@/]+\.[^\s@/]+$/.test(text)
    ? `mailto:${text}`
    : // A name with a dot in it, as places have; `javascript:` and the like have none before their colon.
      /^[\p{L}\p{N}-]+(\.[\p{L}\p{N}-]+)+(:\d+)?([/?#]|$)/u.test(text)
      ? `https://${text}`
      : text;
  return isSafeLink(completed) ? completed : text;
}
