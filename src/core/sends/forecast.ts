import { z } from 'zod';
import type { ChasePlan } from '../asks/chase.ts';
import { IMPORTANCES, type Content, type Problem } from '../content/announcement.ts';
import { callsOf } from '../content/document.ts';
import { eventSchema } from '../content/event.ts';
import { FIELDS } from '../content/field.ts';
import type { PlannedBucket } from '../plan/buckets.ts';
import { planSchema } from '../plan/plan.ts';
import type { Phrase } from '../plan/sentence.ts';
import type { Decision } from '../rights/decide.ts';
import type { Coming } from '../timing/recurrence.ts';

/** What of an announcement's text its plan depends on. */
export const briefSchema = z.object({
  importance: z.enum(IMPORTANCES),
  event: eventSchema.nullable(),
  fields: z.array(z.object({ name: z.enum(FIELDS), fallback: z.string().max(80) })).max(500),
  mentions: z
    .array(
      z.object({
        kind: z.enum(['person', 'group', 'everybody']),
        id: z.int().positive(),
        label: z.string().max(160),
      }),
    )
    .max(500),
  sections: z.int().min(1),
});
export type Brief = z.infer<typeof briefSchema>;

export const forecastSchema = z.object({ plan: planSchema, brief: briefSchema });

export const briefOf = (content: Content): Brief => ({
  importance: content.importance,
  event: content.event,
  sections: content.sections.length,
  ...callsOf(content.sections.map((section) => section.document)),
});

/** Somebody who would not be reached as the plan says, and what happens instead. */
export interface Missed {
  kind:
    | 'no mail address'
    | 'not working'
    | 'mail stopped'
    | 'mail comes back'
    | 'left'
    | 'hour passed'
    | 'contact without mail';
  n: number;
  /** One sentence: who, and what becomes of them. */
  detail: string;
  /** What can be done about it. */
  remedy: string;
  names: string[];
}

/** One zone's part of a send that goes by readers' clocks. */
export interface Band extends PlannedBucket {
  /** How many of the audience read by that zone's clock. */
  n: number;
}

/** One occurrence of what recurs, as it would come. */
export interface NextOne {
  recursAt: string;
  firstMs: number;
  lastMs: number;
  /** On the author's clock, or that of the zone it goes by. */
  clock: Pick<Coming, 'hour' | 'clockMoved'>;
}

/** What a plan would do if it were confirmed now. Instants are milliseconds since 1970. */
export interface Forecast {
  /** People, each once. */
  people: number;
  /** The first of them by name. */
  sample: { id: number; name: string }[];
  byMail: number;
  /** Linked contacts copied in. */
  contacts: number;
  boards: { id: number; name: string; parts: number; readers: number }[];
  /** The outside places it travels to, and whether each is handed anything at present. */
  outside: { id: number; name: string; standing: 'off' | 'on' | 'paused' }[];
  /** Those who may read it on at least one of its boards, each once; in the audience or not. */
  onBoards: number;
  missed: Missed[];
  onLeave: number;
  phrases: Phrase[];
  problems: Problem[];
  warnings: Problem[];
  right: Decision;
  toEveryone: boolean;
  /** The first and last instant at which it reaches somebody; of what recurs, of its next occurrence. */
  span: { firstMs: number; lastMs: number } | null;
  bands: Band[];
  /** The next ten of what recurs. */
  coming: NextOne[];
  /** Those for whom it is quiet then, and when their rest ends. */
  resting: { n: number; firstMs: number; lastMs: number } | null;
  /** The groups that ask for a second person's clearance, by name. */
  clearance: string[];
  /** What is to be told of an hour that does not exist or comes twice. */
  clockNote: string | null;
  /** When those who have not answered are chased, and when the owners of groups are told who is missing. */
  chases: ChasePlan;
}
