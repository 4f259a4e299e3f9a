import type { Access } from '../access/letter.ts';
import type { SignOnLine } from '../access/provider.ts';
import type { Leave } from './leave.ts';
import type { Person } from './person.ts';
import type { Absence } from './working.ts';

/** A group somebody is in, and why. */
export interface MembershipLine {
  id: number;
  name: string;
  why: string;
}

/** Something that was done with somebody, or by them about themselves. Instants in milliseconds since 1970. */
export interface PersonDeed {
  atMs: number;
  /** Null where Clear Bell did it by itself. */
  by: string | null;
  words: string;
}

/** All that those who look after people see of somebody. */
export interface PersonPage {
  person: Person;
  attributes: { name: string; value: string }[];
  groups: MembershipLine[];
  /** The groups they look after. */
  owns: { id: number; name: string }[];
  moderates: { id: number; name: string }[];
  /** The groups an editor may write to; empty for others. */
  reach: { id: number; name: string }[];
  access: Access;
  /** In how many browsers they are signed in. */
  sessions: number;
  /** Whether they take a second step when they sign in. */
  secondStep: boolean;
  /** When they are on leave; null where no date is noted. */
  leave: Leave | null;
  /** The accounts elsewhere that sign them in. */
  signOns: SignOnLine[];
  absences: Absence[];
  history: PersonDeed[];
}
