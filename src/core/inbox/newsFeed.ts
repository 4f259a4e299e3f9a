/** What a feed reader can follow: the addresses of one feed, as Atom 1.0 and as JSON Feed 1.1. */
export interface NewsFeed {
  name: string;
  atom: string;
  json: string;
}
