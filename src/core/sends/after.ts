import type { Reaction } from '../boards/reaction.ts';
import type { Forgotten } from '../retention/counts.ts';

/** What had happened of a going-out by an instant, counted from its first one. */
export interface CurvePoint {
  /** Minutes since it was first due. */
  minutes: number;
  delivered: number;
  read: number;
  answered: number;
}

/** The figures by which one going-out is compared with another. */
export interface Figures {
  occurrenceId: number;
  title: string;
  dueMs: number;
  reached: number;
  /** Those who may read it on its boards now, and those of them who had it on the screen there; 0 where it stands on none. */
  onBoards: number;
  readOnBoards: number;
  /** Linked contacts who read it on a board by their own link. */
  contactsOnBoards: number;
  read: number;
  asked: number;
  answered: number;
  failed: number;
  worstLateMs: number | null;
}

/** What became of a going-out, once it has begun. */
export interface After {
  figures: Figures;
  /** The issue before it in its series, at the same age where this one is younger. */
  before: Figures | null;
  curve: CurvePoint[];
  /** What of it was forgotten, and only counted since. */
  forgotten: Forgotten;
  /** How it was reacted to, in inboxes and on boards; each person once a kind. */
  reactions: { kind: Reaction; n: number }[];
  /** Replies to it, on all its boards. */
  replies: number;
  /** Whether others can sign up for what it tells of. */
  takesSignUps: boolean;
  /** Who signed up under whose link. */
  signUps: { sharedBy: string; n: number }[];
}
