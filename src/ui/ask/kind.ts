import type { ComponentType } from 'react';
import type { AskBox } from '../../core/asks/box.ts';

/** What the parts of a box are given. */
export interface BoxParts {
  box: AskBox;
  zone: string;
  /** Whether it takes an answer from the reader now: open, and not answered or being changed. */
  asking: boolean;
  /** Whether an answer is kept on this device, to be sent later. */
  waits: boolean;
  busy: boolean;
  /** Whether the page cannot hear a press yet. */
  asleep: boolean;
  /** An option chosen in the mail already. */
  preset: number | null;
  /** Whether it is a page opened from mail, where nobody is signed in. */
  signed: boolean;
  /** Whether it leads to the page of its check-in. */
  linked: boolean;
  /** Sends an answer, or keeps it to be sent later; a refusal is thrown as `ApiProblem`. */
  send: (given: Record<string, unknown>) => Promise<void>;
  /** Sends an answer that is one press; a refusal stands in the box. */
  press: (given: Record<string, unknown>) => Promise<void>;
  refetch: () => void;
}

/** How the asks of one kind are shown to whoever is asked. */
export interface ShownKind {
  /** What stands over the box; null where nothing is to be read there. */
  heading: (box: AskBox) => string | null;
  /** The words of the button to change an answer; null where an answer stands. */
  change: string | null;
  /** What is answered, and how. */
  Answer: ComponentType<BoxParts>;
  /** What stands under it: what came of it, and what else can be done. */
  Below: ComponentType<BoxParts> | null;
}
