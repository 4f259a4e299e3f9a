import { z } from 'zod';
import { choicesOf, KEPT, KEPT_KINDS, keptWords, type KeptKind } from './kinds.ts';

/** Why a kind cannot be kept for so long, or null where it can. */
function faultOf(kind: KeptKind, days: number | null): string | null {
  if (choicesOf(kind).includes(days)) return null;
  const { leastDays, title } = KEPT[kind];
  if (days !== null && days < leastDays)
    return `“${title}” is kept for at least ${keptWords(leastDays)}. Choose that or longer.`;
  return `Choose one of: ${choicesOf(kind).map(keptWords).join(', ')}.`;
}

/** A choice of how long a kind is kept: days, or null for good. */
export const keptChoiceSchema = z
  .object({
    kind: z.enum(KEPT_KINDS, `Name one of the kinds that are kept: ${KEPT_KINDS.join(', ')}`),
    days: z.int('Give a whole number of days, or null for good').nullable(),
  })
  .superRefine(({ kind, days }, context) => {
    const fault = faultOf(kind, days);
    if (fault !== null) context.addIssue({ code: 'custom', path: ['days'], message: fault });
  });
export type KeptChoice = z.infer<typeof keptChoiceSchema>;
