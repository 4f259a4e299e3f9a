import type { Importance } from '../content/announcement.ts';
import type { EventDetails } from '../content/event.ts';
import type { Decision } from '../rights/decide.ts';

/** A board as its readers see it. */
export interface Board {
  id: number;
  name: string;
  about: string;
  /** Whose place it is, in words. */
  whose: string;
  moderators: string[];
}

export interface BoardListing extends Board {
  posting: Decision;
  /** When it was last posted to, in milliseconds since 1970. */
  lastMs: number | null;
}

/** A post as it is read: its text rendered, nothing left to clean. */
export interface Post {
  id: number;
  occurrenceId: number | null;
  authorName: string;
  postedMs: number;
  pinned: boolean;
  title: string;
  byline: string;
  importance: Importance;
  html: string;
  button: { label: string; url: string } | null;
  event: EventDetails | null;
  /** Which part of how many, where it was longer than the board takes. */
  part: { number: number; of: number } | null;
  corrected: { atMs: number; note: string } | null;
}

export interface BoardPage {
  board: Board;
  /** Sections a post has at most. */
  sectionLimit: number;
  postingRule: 'moderators' | 'members';
  posting: Decision;
  pinning: Decision;
  pinned: Post[];
  posts: Post[];
  /** Where the next page begins, or null at the end. */
  next: { postedMs: number; id: number } | null;
}
