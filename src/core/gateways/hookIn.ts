import { z } from 'zod';
import { namedValueSchema, pointerSchema, refuseDoubleNames } from '../automation/source.ts';
import { IMPORTANCES, MAX_TITLE } from '../content/announcement.ts';
import { isBlank, MAX_TEXT } from '../content/document.ts';
import { linkSchema } from '../content/linkSchema.ts';
import { MOST_A_MINUTE } from './limits.ts';
import { ACCENTS, MAX_ALT, MAX_HEADING, MAX_SECTIONS } from '../content/section.ts';

const id = z.int().positive();

/** Where what comes in goes: up on a board; to a group, by inbox and perhaps by mail; to the automations that listen to it. */
export const hookTargetSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('board'), boardId: id }),
  z.object({ kind: z.literal('group'), groupId: id, mail: z.boolean() }),
  z.object({ kind: z.literal('automations') }),
]);
export type HookTarget = z.infer<typeof hookTargetSchema>;

const MAIL_FROM = /^[^\s@<>,;]*@[^\s@<>,;]+\.[^\s@<>,;]+$/;

/** From whom a way in takes mail. */
export const hookMailSchema = z.object({
  /** Mail addresses, or all of a domain as @place.example; what comes from them stands under the sender of the way in. */
  from: z
    .array(
      z
        .string()
        .trim()
        .toLowerCase()
        .max(254, 'An address has at most 254 characters')
        .regex(
          MAIL_FROM,
          'Write an address such as loans@place.example, or @place.example for all of a domain',
        ),
    )
    .max(50, 'At most 50 addresses'),
  /** Whether those who may post on its board write there by mail: it stands as theirs. */
  members: z.boolean(),
});

/**
 * A way in: an address that an outside system posts to. What it sends is either a message in Clear Bell's own shape, or any
 * JSON out of which the pointers of `mapping` (RFC 6901) take the title and the text; `fields` are the values that
 * automations use.
 */
export const hookInSchema = z
  .object({
    name: z
      .string()
      .trim()
      .max(80, 'A name has at most 80 characters')
      .refine((name) => !isBlank(name), 'Give it a name: which system posts here'),
    target: hookTargetSchema,
    senderId: id.nullable(),
    /** Whether a moderator looks at each post before it is up. */
    held: z.boolean(),
    perMinute: z
      .int('How many is a whole number')
      .min(1, 'At least one a minute')
      .max(MOST_A_MINUTE, `At most ${MOST_A_MINUTE} a minute`),
    mapping: z.object({ title: pointerSchema, text: pointerSchema }).nullable(),
    fields: z.array(namedValueSchema).max(20, 'At most 20 values'),
    /** Who may send it mail; null where it takes none. */
    mail: hookMailSchema.nullable().default(null),
  })
  .superRefine(({ fields, target, mail }, context) => {
    if (mail && mail.from.length === 0 && !(mail.members && target.kind === 'board'))
      context.addIssue({
        code: 'custom',
        path: ['mail', 'from'],
        message: 'Say from which addresses it takes mail.',
      });
    refuseDoubleNames(fields, context);
    if (target.kind === 'automations' && fields.length === 0)
      context.addIssue({
        code: 'custom',
        path: ['fields'],
        message: 'Name at least one value that automations use.',
      });
  });
export type HookIn = z.infer<typeof hookInSchema>;

/** An identity to call on: a mail address, or what somebody is called in another system. */
const callSchema = z.union([
  z.string().trim().min(1).max(200),
  z.strictObject({ system: z.string().trim().min(1).max(40), value: z.string().trim().min(1).max(200) }),
]);

const imageSchema = z
  .strictObject({
    /** An address, or the bytes in base64 (RFC 4648). */
    url: z.url('An address begins with https://').max(2000).optional(),
    data: z.base64('The bytes of an image are written in base64').max(900_000).optional(),
    alt: z
      .string()
      .trim()
      .min(1, 'Say what the image shows, for those who cannot see it')
      .max(MAX_ALT, `A description has at most ${MAX_ALT} characters`),
  })
  .refine(
    (image) => (image.url === undefined) !== (image.data === undefined),
    'An image has either an address or its bytes',
  );

const markdown = z
  .string()
  .max(MAX_TEXT, `A text has at most ${MAX_TEXT.toLocaleString('en-GB')} characters`);

/** A message as an outside system posts it. Texts are CommonMark. */
export const hookMessageSchema = z
  .strictObject({
    /** Sets it apart: the same id twice is one post. */
    id: z.string().min(1).max(200).optional(),
    title: z
      .string()
      .max(MAX_TITLE, `A title has at most ${MAX_TITLE} characters`)
      .refine((title) => !isBlank(title), 'Give it a title'),
    text: markdown.default(''),
    sections: z
      .array(
        z.strictObject({
          heading: z.string().max(MAX_HEADING, `A heading has at most ${MAX_HEADING} characters`).default(''),
          text: markdown.default(''),
          accent: z.enum(ACCENTS).default('none'),
          image: imageSchema.optional(),
        }),
      )
      .max(MAX_SECTIONS - 1, `At most ${MAX_SECTIONS - 1} sections`)
      .default([]),
    button: z.strictObject({ label: z.string().trim().min(1).max(60), url: linkSchema }).optional(),
    fields: z
      .array(z.strictObject({ label: z.string().trim().min(1).max(80), value: z.string().max(500) }))
      .max(50, 'At most 50 fields')
      .default([]),
    importance: z.enum(IMPORTANCES).default('routine'),
    call: z.array(callSchema).max(20, 'At most 20 people are called on').default([]),
  })
  .refine(({ text, sections, fields }) => !isBlank(text) || sections.length > 0 || fields.length > 0, {
    message: 'There is no text. Send text, sections or fields.',
    path: ['text'],
  });
export type HookMessage = z.infer<typeof hookMessageSchema>;

/** What became of a call: it was taken, it had come before, or it was refused. */
export const CALL_OUTCOMES = ['taken', 'repeated', 'refused'] as const;
export type CallOutcome = (typeof CALL_OUTCOMES)[number];

/** One call of a way in, for its log. */
export interface HookCall {
  id: number;
  atMs: number;
  messageId: string;
  outcome: CallOutcome;
  status: number;
  /** Why it was refused, in words. */
  reason: string | null;
  /** Where what it said stands; null where it was refused, or set automations off. */
  href: string | null;
  /** What came, cut short. */
  body: string;
}

/** A way in as its ledger shows it. */
export interface HookLine {
  id: number;
  name: string;
  on: boolean;
  sentence: string;
  owner: string;
  /** Of the last day. */
  taken: number;
  refused: number;
  lastMs: number | null;
  /** The last thing that went wrong, where nothing went right since. */
  trouble: string | null;
}

/** A way in with all that can be changed of it. */
export interface HookInPage {
  id: number;
  hook: HookIn;
  on: boolean;
  revision: number;
  address: string;
  /** The address it takes mail at; null where it takes none, or the organisation takes no mail. */
  mailAddress: string | null;
  /** Whether the organisation takes mail at all. */
  takesMail: boolean;
  owner: string;
  sentence: string;
  calls: HookCall[];
}

/** What a way in does, read aloud under its name. */
export function hookSentence(
  { target, held, perMinute, mail }: Pick<HookIn, 'target' | 'held' | 'perMinute' | 'mail'>,
  names: {
    board: string | undefined;
    group: string | undefined;
    sender: string | undefined;
    automations: string[];
  },
): string {
  const most = `at most ${perMinute} a minute${mail ? ', by mail too' : ''}`;
  const from = names.sender === undefined ? '' : `, from ${names.sender}`;
  switch (target.kind) {
    case 'board':
      return `What it sends goes up on ${names.board ?? 'a board that no longer exists'}${from}${held ? ', once a moderator has looked' : ''}, ${most}.`;
    case 'group':
      return `What it sends reaches ${names.group ?? 'a group that no longer exists'} by ${target.mail ? 'inbox and mail' : 'inbox'}${from}, ${most}.`;
    case 'automations':
      return names.automations.length === 0
        ? `What it sends sets off no automation yet, ${most}.`
        : `What it sends sets off ${names.automations.map((each) => `“${each}”`).join(', ')}, ${most}.`;
  }
}
