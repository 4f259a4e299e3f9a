/** Most posts that are told as read at once: more than a screen holds. */
export const MOST_READ_AT_ONCE = 60;

/**
 * What of a board is looked at: all of it or what its reader has not read; the latest, or from a day on back. `postedMs`
 * and `id` name the post after which a page begins.
 */
export interface BoardView {
  only?: 'unread' | undefined;
  /** The last day that is looked at (YYYY-MM-DD), on the reader's own clock. */
  until?: string | undefined;
  postedMs?: number | undefined;
  id?: number | undefined;
}

/** Somebody who may read a board, and how they came to. */
export interface BoardMember {
  id: number;
  name: string;
  station: string | null;
  /** Looks after it. */
  moderates: boolean;
  /** In the group it belongs to, or everybody where it belongs to none. */
  belongs: boolean;
}

export interface BoardMembersPage {
  /** Of all who belong to it, however many match. */
  count: number;
  members: BoardMember[];
  next: { name: string; id: number } | null;
}
