import { dateSchema } from '../timing/bounds.ts';
import { z } from 'zod';
import { draftContentSchema, type Importance } from '../content/announcement.ts';
import { EMPTY_DOCUMENT, isBlankDocument } from '../content/document.ts';
import { documentSchema } from '../content/documentSchema.ts';
import type { ShownEvent } from '../content/shownEvent.ts';
import { MAX_GALLERY, type FileLink } from '../content/section.ts';
import { fileSchema, imageSchema } from '../content/sectionSchema.ts';
import type { Decision } from '../rights/decide.ts';
import type { ThanksGiven } from '../thanks/ribbon.ts';
import type { ReactionCounts } from './reaction.ts';
import type { Switches } from './switchesSchema.ts';

/** A board as its readers see it. */
export interface Board {
  id: number;
  name: string;
  about: string;
  /** Whose place it is, in words, with the kind of its group. */
  whose: string;
  moderators: string[];
  archived: boolean;
}

export interface BoardListing extends Board {
  posting: Decision;
  /** What was posted last, and when, in milliseconds since 1970. */
  latest: { postId: number; title: string; atMs: number } | null;
  /** Posts its reader has not seen, counted up to a hundred. */
  unread: number;
  muted: boolean;
  /** Whether it is out of this reader's sight: not among their boards, and found by the search. */
  hidden: boolean;
  /** What waits for its moderators: held posts and reports. Nothing for others. */
  waiting: number;
}

export const POST_STATES = ['up', 'held', 'returned', 'declined', 'hidden', 'deleted'] as const;
export type PostState = (typeof POST_STATES)[number];

/** What a post, or a reply, lets its reader do. */
export interface PostRights {
  replying: Decision;
  reacting: boolean;
  pinning: boolean;
  moderating: boolean;
  /** Whether it is the reader's own to change and take back. */
  own: boolean;
}

/** A page of the application that a text links to, as its reader may see it. */
export interface LinkPreview {
  path: string;
  title: string;
  detail: string;
}

/**
 * A post that another one passes on, as it stands at this moment: corrected where it was corrected, and gone where it was
 * hidden or taken back. The board it stands on is named only where the reader may see it.
 */
export type Quote =
  | {
      state: 'up';
      title: string;
      byline: string;
      author: string;
      postedMs: number;
      editedMs: number | null;
      html: string;
      board: string | null;
      path: string | null;
    }
  | { state: 'gone' };

/** A post as it is read: its text rendered, nothing left to clean. */
export interface Post {
  id: number;
  boardId: number;
  occurrenceId: number | null;
  authorId: number;
  authorName: string;
  postedMs: number;
  pinned: boolean;
  /** Until when it is pinned; null is until it is unpinned. */
  pinUntilMs: number | null;
  /** Pinned so long that somebody should look whether it still holds. */
  stale: boolean;
  title: string;
  byline: string;
  /** Where the picture of the sender it stands under is; null where there is none. */
  senderPicture: string | null;
  importance: Importance;
  html: string;
  /** Its first words, for where it stands on one line. */
  excerpt: string;
  button: { label: string; url: string } | null;
  event: ShownEvent | null;
  /** Which part of how many, where it was longer than the board takes. */
  part: { number: number; of: number } | null;
  /** Of what an automation said: which it was, in words; null where somebody wrote it. */
  byItself: string | null;
  /** What it asks of the reader, as the occurrence that asks; null where nothing is asked of them. */
  asks: number | null;
  corrected: { atMs: number; note: string } | null;
  state: PostState;
  /** What a moderator said to it, and who. */
  note: { by: string; text: string } | null;
  locked: boolean;
  editedMs: number | null;
  /** What it passes on, as that stands now; null where it passes nothing on. */
  quote: Quote | null;
  replies: number;
  reactions: ReactionCounts;
  unread: boolean;
  thanks: ThanksGiven | null;
  previews: LinkPreview[];
  own: boolean;
}

export interface Reply {
  id: number;
  authorId: number;
  authorName: string;
  writtenMs: number;
  editedMs: number | null;
  html: string;
  /** Each with the address by which this reader may save it. */
  files: (FileLink & { href: string })[];
  /** What is hidden or deleted shows to others that it was there, and nothing of it. */
  state: 'up' | 'hidden' | 'deleted';
  note: { by: string; text: string } | null;
  reactions: ReactionCounts;
  previews: LinkPreview[];
  own: boolean;
}

/** How somebody has a board: told of each post, not in For me, or not among their boards either. */
export const BOARD_FOLLOWINGS = ['follow', 'mute', 'hide'] as const;
export type BoardFollowing = (typeof BOARD_FOLLOWINGS)[number];

export interface BoardPage {
  board: Board;
  switches: Switches;
  posting: Decision;
  replying: Decision;
  reacting: boolean;
  pinning: Decision;
  moderating: boolean;
  /** Whether calling on everybody here is theirs. */
  mentioning: Decision;
  pinLimit: number;
  pinned: Post[];
  links: BoardLink[];
  posts: Post[];
  /** For those who moderate: what waits for them. For others: what of their own has not gone up. */
  queue: Post[];
  reports: Report[];
  following: BoardFollowing | null;
  /** Posts its reader has not read, counted up to a hundred. */
  unread: number;
  takesThanks: boolean;
  /** Where the next page begins, or null at the end. */
  next: { postedMs: number; id: number } | null;
}

export interface BoardLink {
  id: number;
  label: string;
  url: string;
}

/** What somebody thought should not stand. */
export interface Report {
  id: number;
  subject: 'post' | 'reply';
  subjectId: number;
  postId: number;
  title: string;
  excerpt: string;
  reporter: string;
  reason: string;
  atMs: number;
}

/** One post with what was said to it. */
export interface PostPage extends PostRights {
  /** Where what is longer than the board takes goes on, and began: its other parts. */
  parts: { id: number; number: number }[];
  board: Board;
  mentioning: Decision;
  reacting: boolean;
  post: Post;
  /** The latest replies in the order they were written. */
  replies: Reply[];
  /** From where earlier ones begin; null where there are none. */
  earlier: number | null;
  following: 'follow' | 'mute' | null;
  /** The boards it could be passed on to; `warns` where one is told first how many that reaches. */
  passableTo: { id: number; name: string; held: boolean; warns: boolean }[];
}

export const newPostSchema = z.object({
  title: draftContentSchema.shape.title,
  document: documentSchema,
  image: imageSchema.nullable().default(null),
  /** Further images. */
  gallery: z
    .array(imageSchema)
    .max(MAX_GALLERY, `A post has at most ${MAX_GALLERY + 1} images`)
    .default([]),
  files: z.array(fileSchema).max(10, 'A post has at most ten attachments').default([]),
});
export type NewPost = z.infer<typeof newPostSchema>;

export const MAX_REPLY = 4000;
export const replySchema = z.object({
  document: documentSchema
    .refine((doc) => !isBlankDocument(doc), 'Write what you want to say')
    .refine(
      (doc) => JSON.stringify(doc).length <= MAX_REPLY * 4,
      'A reply has at most 4,000 characters. Write a post instead',
    ),
  files: z.array(fileSchema).max(4, 'A reply has at most four attachments').default([]),
});
export type NewReply = z.infer<typeof replySchema>;

/** What a reader says of what they pass on; may be nothing. */
export const passOnSchema = z.object({
  boardId: z.int().positive(),
  document: documentSchema.default(EMPTY_DOCUMENT),
});

const note = z.string().trim().max(600, 'At most 600 characters').default('');
const reason = z
  .string()
  .trim()
  .min(3, 'Say why, in a few words')
  .max(600, 'A reason has at most 600 characters');

/** What a moderator decides on a post. */
export const decisionSchema = z.discriminatedUnion('decision', [
  z.object({ decision: z.literal('approve'), note }),
  z.object({ decision: z.literal('return'), note: reason }),
  z.object({ decision: z.literal('decline'), note }),
  z.object({ decision: z.literal('hide'), note: reason }),
  z.object({ decision: z.literal('show'), note }),
  z.object({ decision: z.literal('delete'), note: reason }),
  z.object({ decision: z.literal('lock'), note }),
  z.object({ decision: z.literal('unlock'), note }),
]);

export const reportSchema = z.object({ reason });

export const pinSchema = z.object({
  pinned: z.boolean(),
  /** The last day it is pinned, in the reader's zone; null until it is unpinned. */
  until: dateSchema('2026-12-24').nullable().default(null),
  /** The post it takes the place of, where as many are pinned as may be. */
  replaces: z.int().positive().nullable().default(null),
});

/** After so long a pinned post is pointed out to whoever may unpin it. */
export const STALE_PIN_DAYS = 45;
