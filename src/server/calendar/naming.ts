import { momentWords } from '../../core/timing/words.ts';

/** A date of the calendar as sentences name it: what it is of, and when, on the clock of its zone. */
export const dateName = ({
  title,
  startMs,
  zone,
}: {
  title: string;
  startMs: number;
  zone: string;
}): string => `${title}, ${momentWords(startMs, zone)}`;
