import type { AskingKind } from './askWords.ts';
import type { Ballot } from './poll/ballot.ts';
import type { CheckInAnswers, Question } from './check-in/checkIn.ts';
import type { Outcome } from './poll/count/outcome.ts';
import type { PollKind, RankingMethod, Shown } from './poll/pollKinds.ts';

/** An option as its reader sees it: a date in their own zone. */
export interface BoxOption {
  id: number;
  words: string;
  addedBy: string | null;
}

export interface PollBox {
  question: string;
  kind: PollKind;
  limit: number | null;
  scale: number;
  method: RankingMethod;
  anonymous: boolean;
  shown: Shown;
  /** What one should know before voting: how it is decided, and who sees what one chooses. */
  rules: string[];
  /** Whether the reader may add an option. */
  adding: boolean;
  /** In the order the reader sees them. */
  options: BoxOption[];
  /** What the reader answered; null where nothing yet. */
  mine: Ballot | null;
  /** What has come of it, where it may be shown to this reader now. */
  outcome: Outcome | null;
  /** Why there is no outcome to see, or null where there is. */
  hidden: string | null;
}

export interface CheckInBox {
  questions: Question[];
  /** What the reader said, or what they are offered to begin with. */
  answers: CheckInAnswers;
  /** Whether a text in it is what was to come next the last time. */
  offered: boolean;
}

/** What is asked of one reader, with what they answered: the box under an announcement. Instants are ms since 1970. */
export interface AskBox {
  occurrenceId: number;
  kind: AskingKind;
  deadlineMs: number | null;
  closedMs: number | null;
  answeredMs: number | null;
  /** When they acknowledged an earlier text, where it changed in substance and asks again. */
  earlierMs: number | null;
  /** What one agrees to by acknowledging. */
  statement: string;
  asked: number;
  answered: number;
  poll: PollBox | null;
  checkIn: CheckInBox | null;
}
