import type { Audience } from '../audience/expression.ts';
import type { Automation } from '../automation/automation.ts';
import { BOARD_SETTINGS, type BoardSetting } from '../boards/switches.ts';
import type { Content } from '../content/announcement.ts';
import { GROUP_WAYS, type GroupWays } from '../groups/group.ts';
import type { SeenBy, SheetColumn, SheetForm } from '../sheets/sheet.ts';

/** The kinds of parts of a pattern, in the order in which they are made. */
export const PATTERN_KINDS = ['group', 'sheet', 'board', 'pin', 'automation'] as const;
export type PatternKind = (typeof PATTERN_KINDS)[number];

export const PATTERN_WORDS: Readonly<Record<PatternKind, { one: string; many: string }>> = {
  group: { one: 'group', many: 'groups' },
  sheet: { one: 'record sheet', many: 'record sheets' },
  board: { one: 'board', many: 'boards' },
  pin: { one: 'pinned post', many: 'pinned posts' },
  automation: { one: 'automation', many: 'automations' },
};

/**
 * A part of a pattern, as it was in the place it was taken from. Its `id` is the one it had there, and stays with the part however
 * the pattern changes; parts name each other, and whatever is not a part, by the ids of there.
 */
export type PatternPart =
  | ({ kind: 'group'; id: number; name: string; rule: Audience | null } & GroupWays)
  | {
      kind: 'sheet';
      id: number;
      name: string;
      purpose: string;
      columns: SheetColumn[];
      form: SheetForm | null;
      /** Whether everybody at the desk sees it, or coordinators and those named; whom is for each place to say. */
      seenBy: SeenBy;
      /** What stands in the address of its form there; null where it has none. */
      formKey: string | null;
    }
  | ({
      kind: 'board';
      id: number;
      name: string;
      groupId: number | null;
      links: { label: string; url: string }[];
    } & BoardSetting)
  | { kind: 'pin'; id: number; boardId: number; content: Content }
  | { kind: 'automation'; id: number; automation: Automation };
export type PartOf<K extends PatternKind> = Extract<PatternPart, { kind: K }>;

/** What a pattern says. */
export interface PatternDocument {
  /** The name of the place it was taken from: where it stands in names and texts, a new place has its own. */
  called: string;
  parts: PatternPart[];
  /** What it asks for besides a name and an owner, by the keys of blanks. */
  blanks: string[];
}

/** A part by its kind and id: `board:12`. */
export const partKey = ({ kind, id }: Pick<PatternPart, 'kind' | 'id'>): string => `${kind}:${id}`;

export const partName = (part: PatternPart): string =>
  part.kind === 'pin' ? part.content.title : part.kind === 'automation' ? part.automation.name : part.name;

/** What can differ from place to place besides the name and the owner. */
export const BLANK_KINDS = ['station', 'person', 'zone', 'date'] as const;
export type BlankKind = (typeof BLANK_KINDS)[number];

/** Something that parts name and that another place may have otherwise. */
export interface Blank {
  /** Its kind, and what it is in the pattern: `station:3`, `zone:Europe/Madrid`, `date:2026-12-17`. */
  key: string;
  kind: BlankKind;
  /** The id, zone or date (YYYY-MM-DD) that it is in the pattern. */
  was: string;
  /** The keys of the parts that name it. */
  in: string[];
}

/** What is answered when a place is made. */
export interface PlaceAnswers {
  name: string;
  ownerId: number;
  /** By the key of a blank; what is left out stays as it is in the pattern. */
  given: Readonly<Record<string, string>>;
  /** Whether automations that can be put to work are. */
  atWork: boolean;
}

/** What the parts of a place came to be. */
export interface MadeParts {
  /** Ids by the key of the part. */
  ids: ReadonlyMap<string, number>;
  /** What stands in the addresses of forms, by what stands there in the pattern. */
  forms: ReadonlyMap<string, string>;
  /** Under which the pages of here stand, such as `https://bell.example`: what leads elsewhere stays as it is. */
  origin: string;
}

/** What of each kind can be changed by itself, and what it says. */
const ASPECTS: { readonly [K in PatternKind]: Readonly<Record<string, string>> } = {
  group: { name: 'its name', rule: 'who is in it', ...GROUP_WAYS },
  sheet: {
    name: 'its name',
    purpose: 'what it is for',
    columns: 'its columns',
    form: 'its form',
    seenBy: 'who sees it',
  },
  board: { name: 'its name', groupId: 'whose place it is', links: 'its key links', ...BOARD_SETTINGS },
  pin: { content: 'what it says' },
  automation: { automation: 'when it speaks, to whom, and what it says' },
};

/** A value as text, alike whatever the order of its fields. */
const comparable = (value: unknown): string =>
  JSON.stringify(value, (_field, inner: unknown) =>
    typeof inner === 'object' && inner !== null && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => (a < b ? -1 : 1)))
      : inner,
  );

/** What differs between two states of a part: the aspects, by name. */
export function aspectsChanged(before: PatternPart, after: PatternPart): string[] {
  const [was, is] = [before, after] as unknown as Record<string, unknown>[];
  return Object.keys(ASPECTS[after.kind]).filter(
    (aspect) => comparable(was?.[aspect]) !== comparable(is?.[aspect]),
  );
}

/** Aspects in words; with a part as it would be, a name or a short text is told too. */
export function aspectWords(kind: PatternKind, aspects: readonly string[], to?: PatternPart): string[] {
  const said = (to ?? {}) as Record<string, unknown>;
  return aspects.map((aspect) => {
    const words = ASPECTS[kind][aspect] ?? aspect;
    const value = said[aspect];
    return TOLD.has(aspect) && typeof value === 'string' && value !== '' ? `${words} to “${value}”` : words;
  });
}

const TOLD = new Set(['name', 'about', 'purpose']);

/** A part with some of its aspects as another has them. */
export const withAspects = <P extends PatternPart>(part: P, other: P, aspects: readonly string[]): P => ({
  ...part,
  ...Object.fromEntries(
    Object.entries(other).filter(([aspect]) => aspects.includes(aspect) && aspect in ASPECTS[part.kind]),
  ),
});
