import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import { list } from '../words.ts';

/** What an outside system can follow, with the words that name it. */
export const OUT_KINDS = {
  'announcement.sent': 'announcements that went out',
  'announcement.corrected': 'corrections',
  'post.up': 'posts that went up',
  'ask.answered': 'answers',
  'ask.closed': 'asks that closed',
  'person.joined': 'people who joined',
  'person.left': 'people who left',
  'run.failed': 'runs of automations that failed or were kept back',
} as const;
export type OutKind = keyof typeof OUT_KINDS;

/** What one event of a kind says that happened; a trial is one of its own. */
const HAPPENED: Record<OutKind | 'trial', string> = {
  'announcement.sent': 'An announcement went out',
  'announcement.corrected': 'An announcement was corrected',
  'post.up': 'A post went up',
  'ask.answered': 'Somebody answered',
  'ask.closed': 'An ask closed',
  'person.joined': 'Somebody joined',
  'person.left': 'Somebody left',
  'run.failed': 'An automation failed or kept something back',
  trial: 'A trial',
};

/** What became of an announcement that an outside place is told of. */
const CHANGED: Record<string, string> = {
  sent: 'An announcement went there',
  corrected: 'Its correction went there',
  withdrawn: 'It was withdrawn',
  reinstated: 'It holds again',
};

/** What an event says that happened, and of what, as its log shows it. */
export function happenedWords(kind: string, body: string): string {
  const { data = {} } = JSON.parse(body) as { data?: { title?: unknown; name?: unknown; change?: unknown } };
  const of = data.title ?? data.name;
  const changed = typeof data.change === 'string' ? CHANGED[data.change] : undefined;
  const words = changed ?? Object.entries(HAPPENED).find(([each]) => each === kind)?.[1] ?? kind;
  return typeof of === 'string' ? `${words}: ${of}` : words;
}
export const OUT_KIND_NAMES = Object.keys(OUT_KINDS) as [OutKind, ...OutKind[]];

/** Those that are of a board, and are left out where a way out is limited to another. */
export const OF_A_BOARD: readonly OutKind[] = ['announcement.sent', 'post.up'];

/** How announcements travel to an outside place. */
export const placeSchema = z.object({
  /** The body it gets: JSON whose strings name fields of the announcement. */
  template: z.string().max(20_000, 'A template has at most 20,000 characters'),
  /** Whether it is told of corrections and withdrawals too. */
  changes: z.boolean(),
  /** Whether editors may send there, or coordinators alone. */
  editors: z.boolean(),
});
export type Place = z.infer<typeof placeSchema>;

/**
 * A way out: an outside address, signed to by Standard Webhooks. Either it is told of what happens here, as CloudEvents 1.0 in
 * JSON; or it is an outside place, to which announcements travel as its template says.
 */
export const hookOutSchema = z
  .object({
    name: z
      .string()
      .trim()
      .max(80, 'A name has at most 80 characters')
      .refine((name) => !isBlank(name), 'Give it a name: which system is told'),
    url: z
      .string()
      .trim()
      .max(500, 'An address has at most 500 characters')
      .regex(/^https?:\/\//, 'An address begins with https:// or http://')
      .refine(
        (url) => URL.canParse(url) && new URL(url).username === '' && new URL(url).password === '',
        'An address names a host, without a name and password in it',
      ),
    kinds: z.array(z.enum(OUT_KIND_NAMES)),
    /** Only what goes up on this board, of the kinds that are of a board. */
    boardId: z.int().positive().nullable(),
    /** Only what reaches people of this group, or is done by them, of the kinds that are of people. */
    groupId: z.int().positive().nullable().default(null),
    place: placeSchema.nullable().default(null),
  })
  .refine(({ kinds, place }) => place !== null || kinds.length > 0, {
    path: ['kinds'],
    message: 'Choose at least one kind of what happens',
  })
  .transform((hook) => (hook.place === null ? hook : { ...hook, kinds: [], boardId: null, groupId: null }));
export type HookOut = z.infer<typeof hookOutSchema>;

/** An outside place as a plan names it. */
export interface PlaceChoice {
  id: number;
  name: string;
  /** Why this person may not send there, or null where they may. */
  denied: string | null;
}

export const HANDOVER_STATES = ['waiting', 'sending', 'delivered', 'failed', 'called off'] as const;
export type HandoverState = (typeof HANDOVER_STATES)[number];
export const WAY_OUT_STATES = ['off', 'on', 'paused'] as const;
export type WayOutState = (typeof WAY_OUT_STATES)[number];

/** What became of a send at one outside place. Instants are milliseconds since 1970. */
export interface PlaceReached {
  id: number;
  hookId: number;
  name: string;
  /** Whether its way out hands over at present. */
  standing: WayOutState;
  state: HandoverState;
  attempts: number;
  status: number | null;
  reason: string | null;
  endedMs: number | null;
  tryMs: number | null;
  lateMs: number | null;
}

/** One event on its way to an outside address, for its log. */
export interface Handover {
  id: number;
  kind: string;
  madeMs: number;
  state: HandoverState;
  attempts: number;
  status: number | null;
  reason: string | null;
  /** When it is tried again; null where it is not. */
  tryMs: number | null;
  body: string;
  /** To an outside place: the body as it was last handed over; null where it was not yet, and of an event. */
  sentBody: string | null;
}

/** A way out as its ledger shows it. */
export interface HookOutLine {
  id: number;
  name: string;
  state: WayOutState;
  whyPaused: string | null;
  sentence: string;
  owner: string;
  /** Of the last day. */
  delivered: number;
  failed: number;
  waiting: number;
  lastMs: number | null;
  trouble: string | null;
}

export interface HookOutPage {
  id: number;
  hook: HookOut;
  state: HookOutLine['state'];
  whyPaused: string | null;
  revision: number;
  owner: string;
  sentence: string;
  /** Until when the secret before signs too, in milliseconds since 1970; null where there is none. */
  beforeUntilMs: number | null;
  handovers: Handover[];
}

/** What a way out is told, read aloud under its name. A board or group is null where any is meant, undefined where it is gone. */
export function hookOutSentence(
  { kinds, url, place }: HookOut,
  { board, group }: { board: string | null | undefined; group: string | null | undefined },
): string {
  const at = `at ${new URL(url).host}`;
  if (place)
    return `Announcements travel there${place.changes ? ', their corrections and withdrawals too' : ''}; ${place.editors ? 'coordinators and editors send' : 'coordinators send'} them, ${at}.`;
  const what = list(
    kinds.map((kind) => OUT_KINDS[kind]),
    'and',
  );
  const where = board === null ? '' : ` on ${board ?? 'a board that no longer exists'}`;
  const whose = group === null ? '' : `, only of people in ${group ?? 'a group that no longer exists'}`;
  return `It is told of ${what}${where}${whose}, ${at}.`;
}

/**
 * After so many seconds a handover that failed is tried again: growing waits over two days, then it is given up.
 */
export const RETRY_AFTER_S = [5, 30, 120, 600, 1_800, 3_600, 10_800, 21_600, 43_200, 86_400] as const;
