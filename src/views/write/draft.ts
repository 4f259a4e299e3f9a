import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Series } from '../../core/series/series.ts';

/** What the writing screen knows of an announcement. */
export interface Draft {
  id: number;
  content: Content;
  plan: Plan;
  revision: number;
  savedMs: number;
  savedByName: string;
  state: 'draft' | 'template';
  review: 'none' | 'for review' | 'cleared';
  reviewByName: string | null;
  /** Whether it changes a recurring send, or corrects what has gone. */
  purpose: 'send' | 'change' | 'correct';
  /** Why this person may not clear it, or null where they may. */
  clearing: string | null;
}

export interface BoardChoice {
  id: number;
  name: string;
  /** Whose place it is; null is everybody's. */
  groupId: number | null;
  sectionLimit: number;
  /** Why this person may not post there, or null where they may. */
  denied: string | null;
}

export interface Choices {
  audience: AudienceChoices;
  boards: BoardChoice[];
  zones: string[];
  /** The zones of the stations, offered first. */
  stationZones: { name: string; zone: string }[];
  series: Series[];
  /** The names of people that the plan names. */
  people: Record<string, string>;
}

export interface PanelProps {
  plan: Plan;
  choices: Choices;
  zone: string;
  nowMs: number;
  onChange: (plan: Plan) => void;
}
