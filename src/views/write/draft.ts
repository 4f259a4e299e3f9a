import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { AudienceNames } from '../../core/audience/words.ts';
import { contentProblems, type Content, type Problem } from '../../core/content/announcement.ts';
import type { PlaceChoice } from '../../core/gateways/hookOut.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { PhraseKey } from '../../core/plan/sentence.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { numbered, type Series } from '../../core/series/series.ts';
import { list } from '../../core/words.ts';

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
  /** Who is asked by name to clear it. */
  reviewAskedName: string | null;
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
  outside: PlaceChoice[];
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

/** The names an audience is read with, from what may be chosen. */
export const namesFrom = (choices: Choices): AudienceNames => ({
  group: (id) => choices.audience.groups.find((group) => group.id === id)?.name,
  station: (id) => choices.audience.stations.find((station) => station.id === id)?.name,
  person: (id) => choices.people[String(id)],
  occurrence: (id) => choices.audience.asks.find((each) => each.occurrenceId === id)?.title,
  session: (id) => choices.audience.sessions.find((each) => each.dateId === id)?.words,
});

/** What keeps a draft from going out, by field. */
export function keepsFromGoing(content: Content, forecast: Forecast, review: Draft['review']): Problem[] {
  const found = [...contentProblems(content), ...forecast.problems];
  if (forecast.clearance.length > 0 && review !== 'cleared')
    found.push({
      field: 'review',
      detail: `${list(forecast.clearance, 'and')} ${forecast.clearance.length === 1 ? 'asks' : 'ask'} for a second person’s clearance. Hand it on for review.`,
    });
  if (forecast.right.outcome === 'denied') found.push({ field: 'audience', detail: forecast.right.reason });
  return found;
}

/** What the writing screen is called, by what it is for. */
export const HEADINGS: Record<Draft['purpose'], string> = {
  send: 'Write',
  change: 'Change what recurs',
  correct: 'Correct what has gone',
};

/** What each phrase of a plan says. */
export const PHRASE_LABELS: Record<PhraseKey, string> = {
  whom: 'Who gets it',
  how: 'How it travels',
  when: 'When it goes out',
  ask: 'What is asked back',
};

/** The title as it will stand: with the number that its series comes to. */
export const titleAsSent = (content: Content, choices: Choices): string =>
  numbered(
    content.title,
    choices.series.find((each) => each.id === content.issue?.seriesId)?.nextNumber ?? null,
  );
