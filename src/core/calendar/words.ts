import type { Stands } from '../audience/stands.ts';
import { people } from '../words.ts';
import type { ShownDate } from './shown.ts';

/** What each of the three ways to say whether one comes is called. */
export const SAY_WORDS = { yes: 'I am coming', perhaps: 'Perhaps', no: 'I cannot come' } as const;

/** What somebody has said, as it is told to them. */
export const MINE_WORDS: Record<Stands, string> = {
  yes: 'You are coming.',
  waiting: 'It is full. You wait for a place, and are told when there is one.',
  perhaps: 'You said perhaps.',
  no: 'You said that you cannot come.',
};

/** How many come, in words: "12 people come of at most 20; 3 wait". */
export function comingWords({ coming, perhaps, waiting, capacity }: ShownDate): string {
  const most = capacity === null ? '' : capacity.toLocaleString('en-GB');
  const parts = [
    ...(coming > 0
      ? [`${people(coming)} ${coming === 1 ? 'comes' : 'come'}${most === '' ? '' : ` of at most ${most}`}`]
      : ['Nobody has said yes', ...(most === '' ? [] : [`at most ${most} can`])]),
    ...(perhaps > 0 ? [`${perhaps.toLocaleString('en-GB')} perhaps`] : []),
    ...(waiting > 0 ? [`${waiting.toLocaleString('en-GB')} ${waiting === 1 ? 'waits' : 'wait'}`] : []),
  ];
  return parts.join('; ');
}
