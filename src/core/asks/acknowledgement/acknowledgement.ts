import { z } from 'zod';
import { common } from '../common.ts';
import type { KindOfAsk } from '../kind.ts';

/** They say with one press that they have read it. Its deadline is a wish: a late answer counts. */
export const acknowledgementSchema = z.object({
  kind: z.literal('acknowledgement'),
  ...common,
  /** What one agrees to by acknowledging; empty where one only says that one has read it. */
  statement: z.string().max(600, 'At most 600 characters').default(''),
});
export type Acknowledgement = z.infer<typeof acknowledgementSchema>;

const agrees = ({ statement }: Acknowledgement): boolean => statement.trim() !== '';

export const ACKNOWLEDGEMENT: KindOfAsk<Acknowledgement> = {
  closes: false,
  ofWorkingDays: false,
  words: (ask) => (agrees(ask) ? 'agree and acknowledge' : 'acknowledge'),
  problems: () => [],
  asksAgain: true,
  statement: ({ statement }) => statement,
  // What one agrees to has to be read first.
  byOnePress: (ask) => !agrees(ask),
  withoutNames: () => false,
  closesWhenAll: () => false,
  digestOn: () => [],
  warnings: () => [],
};

/** An acknowledgement with nothing to agree to, no deadline and no chase, but for what is given. */
export const acknowledgement = (given: Partial<Omit<Acknowledgement, 'kind'>> = {}): Acknowledgement => ({
  kind: 'acknowledgement',
  deadline: null,
  within: null,
  chase: null,
  joiners: false,
  statement: '',
  ...given,
});
