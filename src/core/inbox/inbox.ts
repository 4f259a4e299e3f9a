import type { AskKind } from '../asks/askWords.ts';
import type { ReactionCounts } from '../boards/reaction.ts';
import type { Importance } from '../content/announcement.ts';
import type { ShownEvent } from '../content/shownEvent.ts';
import type { Notice } from '../notices/notice.ts';

/** One thing that came to a reader. Instants are milliseconds since 1970. */
export interface InboxItem {
  occurrenceId: number;
  wentMs: number;
  title: string;
  byline: string;
  importance: Importance;
  excerpt: string;
  /** Whether an answer was asked, of what kind, and when it was given. */
  asked: boolean;
  asks: AskKind;
  /** Whether there is a statement to agree to. */
  agrees: boolean;
  answeredMs: number | null;
  deadlineMs: number | null;
}

/** A line of For me: something that came to the reader's inbox, or stands on one of their boards. */
export interface ForMeLine {
  /** Unlike any other line's. */
  key: string;
  path: string;
  /** Null for what stands on a board and did not come to the inbox. */
  occurrenceId: number | null;
  wentMs: number;
  title: string;
  /** Who wrote it, or in whose name. */
  by: string;
  /** The board it stands on; null for what came to the inbox. */
  board: string | null;
  importance: Importance;
  excerpt: string;
  asked: boolean;
  asks: AskKind;
  answeredMs: number | null;
  read: boolean;
}

/** Where a page of For me ends, in what came to the inbox and in what stands on boards. */
export interface ForMeEnd {
  inbox: { ms: number; id: number } | null;
  posts: { ms: number; id: number } | null;
}

export interface ForMe {
  /** What still needs an answer, the nearest deadline first. */
  unanswered: InboxItem[];
  lines: ForMeLine[];
  /** What the reader was told and has not read, the latest first; and how many there are. */
  notices: Notice[];
  unreadNotices: number;
  /** For whoever is here for the first time: the boards that are theirs. Null for everybody else. */
  welcome: { boards: { id: number; name: string; about: string }[] } | null;
  next: ForMeEnd | null;
}

export interface Reading extends InboxItem {
  /** Where the picture of the sender it stands under is; null where there is none. */
  senderPicture: string | null;
  /** Of a chase: what it follows up. */
  chases: number | null;
  /** Where it does not hold any more: since when, and what is said instead of its text; null where it holds. */
  withdrawn: { atMs: number; note: string } | null;
  html: string;
  /** What stands over every issue of its series. */
  banner: { src: string; alt: string } | null;
  button: { label: string; url: string } | null;
  event: ShownEvent | null;
  /** The answer to "why did I get this". */
  why: string;
  corrected: { atMs: number; note: string } | null;
  reactions: ReactionCounts;
  /** The series it is an issue of. */
  series: { id: number; name: string } | null;
}
