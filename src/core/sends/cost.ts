import type { Section } from '../content/section.ts';
import { searchText } from '../content/text.ts';
import { count, people } from '../words.ts';

/** Words that an adult reads to themselves in a minute, of plain prose in English (Brysbaert 2019: 238), less for looking up. */
const WORDS_A_MINUTE = 200;
/** What turning to a message and away from it again takes at the least. */
const LEAST_SECONDS = 15;
const DAY_HOURS = 8;

const segmenter = new Intl.Segmenter('en', { granularity: 'word' });

/** How long reading some sections takes one person, in seconds. */
export function readingSeconds(title: string, sections: readonly Section[]): number {
  let words = 0;
  for (const part of segmenter.segment(`${title}\n${searchText(sections)}`)) if (part.isWordLike) words++;
  return Math.max(LEAST_SECONDS, Math.round((words / WORDS_A_MINUTE) * 60));
}

/** What so many readers spend on it together: "about 4 hours of 232 people’s day". */
export function costWords(seconds: number, readers: number): string {
  const minutes = (seconds * readers) / 60;
  const hours = minutes / 60;
  const spent =
    minutes < 90
      ? count(Math.max(1, Math.round(minutes)), 'minute', 'minutes')
      : hours < 2 * DAY_HOURS
        ? count(Math.round(hours), 'hour', 'hours')
        : `${count(Math.round(hours / DAY_HOURS), 'working day', 'working days')} (${count(Math.round(hours), 'hour', 'hours')})`;
  return `about ${spent} of ${readers === 1 ? 'one person’s day' : `${people(readers)}’s day`}`;
}
