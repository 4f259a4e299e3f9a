const BASE = 'http://own.invalid';

/**
 * A path of this application, or `/` for anything else: a browser reads `/\\evil.example` and `/<tab>/evil.example` as the
 * address of another house, so it is read here as a browser would and must come out where it began.
 */
export function ownPath(wished: string): string {
  if (!wished.startsWith('/') || wished.length > 2000) return '/';
  try {
    const url = new URL(wished, BASE);
    const path = url.pathname + url.search + url.hash;
    return url.origin === BASE && !path.startsWith('//') ? path : '/';
  } catch {
    return '/';
  }
}
