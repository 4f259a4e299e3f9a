import { generateAtomFeed, generateJsonFeed } from 'feedsmith';

/** One entry of a feed. Instants in milliseconds since 1970; `html` is whole and escaped. */
export interface Entry {
  /** Stays the same for ever: the address under which it is read. */
  url: string;
  title: string;
  author: string;
  atMs: number;
  changedMs: number;
  /** Which text it says, by the number of its version. */
  versionId: number;
  /** Its text, written when it is asked for: most readers have it already. */
  says: () => { html: string; summary: string };
}

export interface Feed {
  title: string;
  /** Where the same is read in the application. */
  home: string;
  /** The address of this page of the feed, and of the one with what is older; null where there is none. */
  self: string;
  next: string | null;
  /** The address of its first page. */
  first: string;
  organisation: string;
  entries: readonly Entry[];
}

/** A feed as Atom 1.0 (RFC 4287), in pages as RFC 5005 section 3 has them. */
export function atomOf({ title, home, self, next, first, organisation, entries }: Feed): string {
  const link = (rel: string, href: string) => ({ rel, href, type: 'application/atom+xml' });
  return generateAtomFeed({
    id: first,
    title: { value: title, type: 'text' },
    updated: new Date(Math.max(0, ...entries.map((entry) => entry.changedMs))),
    authors: [{ name: organisation }],
    generator: { text: 'Clear Bell' },
    links: [
      link('self', self),
      link('first', first),
      ...(next === null ? [] : [link('next', next)]),
      { rel: 'alternate', href: home, type: 'text/html' },
    ],
    entries: entries.map((entry) => {
      const { html, summary } = entry.says();
      return {
        id: entry.url,
        title: { value: entry.title, type: 'text' as const },
        updated: new Date(entry.changedMs),
        published: new Date(entry.atMs),
        authors: [{ name: entry.author }],
        links: [{ rel: 'alternate', href: entry.url, type: 'text/html' }],
        summary: { value: summary, type: 'text' as const },
        content: { value: html, type: 'html' as const },
      };
    }),
  });
}

/** A feed as JSON Feed 1.1. */
export function jsonOf({ title, home, self, next, organisation, entries }: Feed): string {
  return JSON.stringify(
    generateJsonFeed({
      title,
      home_page_url: home,
      feed_url: self,
      ...(next === null ? {} : { next_url: next }),
      authors: [{ name: organisation }],
      items: entries.map((entry) => {
        const { html, summary } = entry.says();
        return {
          id: entry.url,
          url: entry.url,
          title: entry.title,
          content_html: html,
          summary,
          date_published: new Date(entry.atMs),
          date_modified: new Date(entry.changedMs),
          authors: [{ name: entry.author }],
        };
      }),
    }),
  );
}
