import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';

/** What the writing screen knows of an announcement. */
export interface Draft {
  id: number;
  content: Content;
  plan: Plan;
  revision: number;
  savedMs: number;
  savedByName: string;
}

export interface GroupChoice {
  id: number;
  name: string;
  kind: 'live' | 'fixed';
}

export interface BoardChoice {
  id: number;
  name: string;
  /** Why this person may not post there, or null where they may. */
  denied: string | null;
}

export interface Choices {
  groups: GroupChoice[];
  boards: BoardChoice[];
  zones: string[];
  /** The zones of the stations, offered first. */
  stationZones: { name: string; zone: string }[];
  mayEveryone: boolean;
}
