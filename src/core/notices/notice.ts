import { dateAt, dayAfter, resolveMoment } from '../timing/wallTime.ts';

export const NOTICE_KINDS = [
  'mention',
  'reply',
  'post',
  'held',
  'decision',
  'report',
  'thanks',
  'shelf',
  'announcement',
  'outcome',
  'group',
  'session',
] as const;
export type NoticeKind = (typeof NOTICE_KINDS)[number];

export const NOTICE_WORDS: Record<NoticeKind, string> = {
  mention: 'Somebody calls on me by name',
  reply: 'A reply to what I wrote, or follow',
  post: 'A new post on a board I follow',
  held: 'A post waits for me to look at it',
  decision: 'What became of a post of mine',
  report: 'A post on a board I moderate was reported',
  thanks: 'Somebody thanks me',
  shelf: 'An answer to a question of mine',
  announcement: 'An announcement came for me',
  outcome: 'What came of something I was asked, or who is missing of a group of mine',
  group: 'Somebody asks to come into a group of mine, or I am let into one',
  session: 'A session that is for me changes, or is about to begin',
};

export const TIMES = ['no', 'at once', 'daily'] as const;
export type NoticeTime = (typeof TIMES)[number];

/** By which ways somebody is told of a kind of thing, and when. */
export interface NoticeChoice {
  inbox: boolean;
  mail: NoticeTime;
  push: NoticeTime;
}
export type NoticeChoices = Record<NoticeKind, NoticeChoice>;

/** What holds for whoever has chosen nothing. Announcements are in the inbox anyway, and their mail is the sender's plan. */
export const DEFAULT_CHOICES: NoticeChoices = {
  mention: { inbox: true, mail: 'at once', push: 'at once' },
  reply: { inbox: true, mail: 'daily', push: 'at once' },
  post: { inbox: true, mail: 'no', push: 'no' },
  held: { inbox: true, mail: 'daily', push: 'at once' },
  decision: { inbox: true, mail: 'at once', push: 'at once' },
  report: { inbox: true, mail: 'at once', push: 'at once' },
  thanks: { inbox: true, mail: 'at once', push: 'at once' },
  shelf: { inbox: true, mail: 'at once', push: 'at once' },
  announcement: { inbox: true, mail: 'no', push: 'at once' },
  outcome: { inbox: true, mail: 'daily', push: 'at once' },
  group: { inbox: true, mail: 'at once', push: 'at once' },
  session: { inbox: true, mail: 'at once', push: 'at once' },
};

/** Something somebody was told of. */
export interface Notice {
  id: number;
  kind: NoticeKind;
  atMs: number;
  title: string;
  text: string;
  path: string;
  why: string;
  read: boolean;
}

export interface NoticePage {
  notices: Notice[];
  next: number | null;
}

export interface Device {
  id: number;
  label: string;
  madeMs: number;
  lastMs: number | null;
}

/**
 * When a daily digest goes that gathers what happened from `sinceMs` on: the first time after it that the clock of
 * `zone` shows `at`. An hour the clock skips counts as an hour later.
 *
 * @param at `HH:MM`
 */
export function digestDue(sinceMs: number, zone: string, at: string): number {
  const today = dateAt(sinceMs, zone);
  const due = resolveMoment({ wall: `${today}T${at}`, zone }).epochMs;
  return due > sinceMs ? due : resolveMoment({ wall: `${dayAfter(today)}T${at}`, zone }).epochMs;
}
