import { z } from 'zod';
import { guestUntilSchema } from '../people/guest.ts';

/** Whether people come into a fixed group and go out of it by themselves: not at all, by asking whoever looks after it, or at will. */
export const JOININGS = ['closed', 'asked', 'open'] as const;
export type Joining = (typeof JOININGS)[number];

export const JOINING_WORDS: Record<Joining, string> = {
  closed: 'Nobody comes in by themselves',
  asked: 'Whoever wants in asks, and an owner lets them in',
  open: 'Whoever wants in comes in',
};

export const aboutSchema = z.string().trim().max(300, 'What it is for has at most 300 characters');

/** How a fixed group takes people in. */
export const doorSchema = z
  .object({
    joining: z.enum(JOININGS, 'Say who may come in by themselves'),
    ownerBrings: z.boolean(),
    about: aboutSchema,
  })
  .strict();
export type Door = z.infer<typeof doorSchema>;

export const requestSchema = z
  .object({ words: z.string().trim().max(300, 'At most 300 characters').default('') })
  .strict();

/** Somebody whom the owner of a group brings in. */
export const broughtSchema = z
  .object({
    name: z.string().trim().max(160, 'A name has at most 160 characters'),
    mail: z.email('Write their mail address, such as name@example.org').max(254),
    /** Where they come as a guest from outside: their last day. */
    guestUntil: guestUntilSchema.optional(),
  })
  .strict();

/** A group as somebody sees it who is in it, or may be. */
export interface GroupOffer {
  id: number;
  name: string;
  about: string;
  joining: Joining;
  people: number;
  /** The names of those who look after it. */
  owners: string[];
  /** Where they stand: in it, having asked, or neither. */
  mine: 'in' | 'asked' | 'out';
}

/** Somebody who asks to come into a group. Instants in milliseconds since 1970. */
export interface GroupRequest {
  personId: number;
  name: string;
  detail: string;
  words: string;
  askedMs: number;
}

/** A group somebody looks after. */
export interface OwnedGroup {
  id: number;
  name: string;
  people: number;
  ownerBrings: boolean;
  requests: GroupRequest[];
}

export interface MyGroups {
  offers: GroupOffer[];
  owned: OwnedGroup[];
}

/** What became of somebody who was brought in. */
export type Brought = 'was here, and is in it now' | 'was in it already' | 'is invited';
