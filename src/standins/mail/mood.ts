/** How the mail server behaves, so that faults can be seen. */
export const MOODS = ['well', 'slow', 'busy', 'refusing', 'down'] as const;
export type Mood = (typeof MOODS)[number];

export interface CaughtMail {
  id: number;
  receivedMs: number;
  to: string;
  /** The sender of its envelope: where what comes back of it goes. */
  from: string;
  raw: Buffer;
}
