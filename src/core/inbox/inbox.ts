import type { Importance } from '../content/announcement.ts';
import type { EventDetails } from '../content/event.ts';
import type { Image } from '../content/section.ts';

/** One thing that came to a reader. Instants are milliseconds since 1970. */
export interface InboxItem {
  occurrenceId: number;
  wentMs: number;
  title: string;
  byline: string;
  importance: Importance;
  excerpt: string;
  /** Whether an acknowledgement was asked, and when it was given. */
  asked: boolean;
  answeredMs: number | null;
  deadlineMs: number | null;
}

export interface ForMe {
  /** What still needs an answer, the nearest deadline first. */
  unanswered: InboxItem[];
  items: InboxItem[];
  next: { wentMs: number; id: number } | null;
}

export interface Reading extends InboxItem {
  html: string;
  /** What stands over every issue of its series. */
  banner: Image | null;
  button: { label: string; url: string } | null;
  event: EventDetails | null;
  /** The answer to "why did I get this". */
  why: string;
  corrected: { atMs: number; note: string } | null;
}
