/** An event as a reader's page shows it: worked out on the server, so that the page needs no zone data of its own. */
export interface ShownEvent {
  /** When it begins, in milliseconds since 1970. */
  startMs: number;
  /** The zone it was set in. */
  zone: string;
  minutes: number;
  place: string;
  /** An address that may stand behind a link, or null. */
  link: string | null;
  /** Whether each reader has a link of their own to pass on. */
  signUp: boolean;
  /** The date of the calendar it is, of which readers say whether they come. */
  sessionDateId?: number;
}
