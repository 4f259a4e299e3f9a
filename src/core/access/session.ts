/** One place where somebody is signed in. Instants in milliseconds since 1970. */
export interface SessionLine {
  id: number;
  /** The browser in words: "Firefox on Linux". */
  browser: string;
  createdMs: number;
  /** When it was last in use, to some minutes. */
  seenMs: number;
  /** Whether it is the one that asks. */
  here: boolean;
}
