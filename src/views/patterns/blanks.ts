import type { BlankLine } from '../../core/patterns/page.ts';

const ASKED: Readonly<Record<BlankLine['kind'], string>> = {
  station: 'Which station',
  person: 'Who',
  zone: 'Which time zone',
  date: 'Which date',
};

/** What is asked for, with what it stands in the place of. */
export const blankWords = ({ kind, words }: BlankLine): string => `${ASKED[kind]}, in the place of ${words}`;
