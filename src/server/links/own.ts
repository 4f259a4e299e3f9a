/**
 * The path of a link that leads to a page of this application; null for any other. Only such links are shown with what
 * they lead to: nothing outside is ever fetched for a reader.
 */
export function ownPath(href: string): string | null {
  const home = process.env.CLEAR_BELL_URL;
  if (home === undefined || !URL.canParse(href)) return null;
  const url = new URL(href);
  return url.origin === new URL(home).origin ? url.pathname : null;
}
