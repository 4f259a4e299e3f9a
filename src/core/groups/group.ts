import type { Audience } from '../audience/expression.ts';
import type { Bundling } from '../bundling/bundling.ts';

/** A group as the desk lists it. */
export interface GroupLine {
  id: number;
  name: string;
  kind: 'fixed' | 'live';
  needsClearance: boolean;
  /** Whether whoever is on a board with those in it may call on it there. */
  callable: boolean;
  /** Who look after it, by name. */
  owners: { id: number; name: string }[];
  /** How many are in it now; null where its rule cannot be read, and left out where it was not counted with the rest. */
  people?: number | null;
  boards: string[];
  archived: boolean;
}

/** How many groups are counted at once. */
export const GROUPS_COUNTED = 50;

export interface GroupMember {
  id: number;
  name: string;
  station: string | null;
}

export interface MembersPage {
  members: GroupMember[];
  /** Where the next page begins, or null at the end. */
  next: { name: string; id: number } | null;
}

export interface GroupPage extends GroupLine, MembersPage {
  people: number | null;
  /** When routine matter comes to those in it who have not chosen; null is as to everybody. */
  bundling: Bundling | null;
  /** Of a live group: its rule and how it is read; null where it cannot be read, and of a fixed one. */
  rule: Audience | null;
  ruleWords: string;
  /** What it is used in: boards, what is planned, drafts, kept audiences. */
  uses: GroupUse[];
  mayChange: boolean;
  /** What it is for. */
  about: string;
  lately: GroupLately;
}

/** What was sent to a group by its name. */
export interface GroupLately {
  weeks: number;
  sent: number;
  byMail: number;
  /** The latest of them first; `sentMs` is when it was due, in milliseconds since 1970. */
  latest: { id: number; title: string; sentMs: number }[];
}

export interface GroupUse {
  kind: 'board' | 'group' | 'send' | 'draft' | 'kept audience' | 'automation' | 'way in' | 'way out';
  name: string;
  path: string | null;
}

/** What a rule would do: how many would be in the group, and who would come in and go out. */
export interface RuleOutcome {
  people: number;
  comesIn: { people: number; names: string[] };
  goesOut: { people: number; names: string[] };
}

/** What became of people to be put into a group. */
export interface Added {
  added: number;
  /** Were in it already. */
  already: number;
  /** What was written and is nobody's address or name, or several people's. */
  unknown: string[];
}

/** What a group is besides its name and who is in it. */
export interface GroupWays {
  about: string;
  needsClearance: boolean;
  bundling: string | null;
  joining: 'closed' | 'asked' | 'open';
  ownerBrings: boolean;
  callable: boolean;
}

/** What each of these says, as what differs between two groups is told. */
export const GROUP_WAYS: Readonly<Record<keyof GroupWays, string>> = {
  about: 'what it is for',
  needsClearance: 'whether somebody clears what goes to it',
  bundling: 'when routine matter comes',
  joining: 'how one comes in',
  ownerBrings: 'whether its owner brings people in',
  callable: 'whether it may be called on',
};
