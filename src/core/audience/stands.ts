/** What holds of somebody for a date of the calendar: who says yes to what is full waits for a place. */
export const STANDS = ['yes', 'waiting', 'perhaps', 'no'] as const;
export type Stands = (typeof STANDS)[number];

export const STANDS_WORDS: Record<Stands, string> = {
  yes: 'comes',
  waiting: 'waits for a place',
  perhaps: 'perhaps',
  no: 'does not come',
};
