import type { Majority } from '../pollKinds.ts';

export interface Decided {
  carried: boolean;
  /** Why, as a sentence. */
  words: string;
}

const SHARES: Record<Majority, (votesFor: number, cast: number) => boolean> = {
  'more than half': (votesFor, cast) => votesFor * 2 > cast,
  'two thirds': (votesFor, cast) => votesFor * 3 >= cast * 2,
  'three quarters': (votesFor, cast) => votesFor * 4 >= cast * 3,
};

/**
 * Whether something put to the vote is carried. Abstentions count towards the quorum and not towards the majority,
 * which is taken of the votes for and against (Robert's Rules of Order, "a majority of the votes cast, excluding
 * blanks and abstentions"). A tie is not a majority: what is put to the vote is then not carried.
 *
 * @param quorum the share of those asked who must have voted, in per cent
 * @param open whether votes still come: what stands then is told as such, and is no decision
 */
export function approval(
  votes: { for: number; against: number; abstain: number },
  asked: number,
  quorum: number,
  majority: Majority,
  open = false,
): Decided {
  const voted = votes.for + votes.against + votes.abstain;
  const needed = Math.ceil((asked * quorum) / 100);
  if (voted < needed || voted === 0)
    return {
      carried: false,
      words:
        voted === 0
          ? open
            ? 'Nobody has voted yet.'
            : 'Not carried: nobody voted.'
          : open
            ? `Not decided yet: ${voted} of ${asked} have voted so far, and the quorum is ${needed}.`
            : `Not carried: ${voted} of ${asked} voted, and the quorum is ${needed}.`,
    };
  const cast = votes.for + votes.against;
  const carried = SHARES[majority](votes.for, cast) && votes.for > 0;
  return {
    carried,
    words: `${open ? `As it stands it would ${carried ? '' : 'not '}be carried` : carried ? 'Carried' : 'Not carried'}: ${votes.for} for, ${votes.against} against, ${votes.abstain} abstaining; ${majority === 'more than half' ? 'more than half of those for and against was' : `${majority} of those for and against were`} needed.`,
  };
}
