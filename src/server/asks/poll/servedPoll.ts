import { outcomeWords } from '../../../core/asks/poll/count/outcome.ts';
import { optionsOf, type Poll } from '../../../core/asks/poll/poll.ts';
import type { PollAsk } from '../../../core/asks/poll/pollAsk.ts';
import type { ServedKind } from '../kind.ts';
import { pollOptions } from './ballotStore.ts';
import { pollBox } from './box.ts';
import { outcomeShown } from './outcome.ts';
import { postOutcome } from './outcomePosting.ts';
import { writeBallots } from './voting.ts';

/** More buttons than this in a mail are a list to scroll; the page behind its one button shows them better. */
const MOST_BUTTONS = 10;

/** What can be chosen by one press in a letter; none where it takes more than that. */
function buttonsOf(poll: Poll): { id: number; words: string }[] {
  const choices =
    poll.kind === 'single' || poll.kind === 'approval'
      ? optionsOf(poll).map((option) => ({ id: option.id, words: option.label }))
      : poll.kind === 'rating'
        ? Array.from({ length: poll.scale }, (_, i) => ({ id: i + 1, words: String(i + 1) }))
        : [];
  return choices.length <= MOST_BUTTONS ? choices : [];
}

export const SERVED_POLL: ServedKind<PollAsk> = {
  canChange: true,
  page: 'answer',
  letter: ({ poll }) => ({
    deed: 'Vote',
    says: poll.question.trim(),
    choices: buttonsOf(poll),
    please: poll.anonymous ? 'Please vote; your name is not kept with your vote' : 'Please vote',
  }),
  box: async (db, secret, reader, { id }, { poll }, state) => ({
    poll: await pollBox(db, secret, reader, id, poll, state),
    checkIn: null,
  }),
  write: writeBallots,
  async closed(trx, occurrence, { poll }) {
    if (poll.postBack) await postOutcome(trx, occurrence, poll);
  },
  async outcomeWords(db, occurrenceId, { poll }, { asked, closed, zone }) {
    if (!closed && poll.shown !== 'always') return 'The result shows once the poll has closed.';
    const options = await pollOptions(db, occurrenceId, poll);
    const { outcome, hidden } = await outcomeShown(db, occurrenceId, poll, options, { closed, asked });
    return outcome
      ? outcomeWords(poll, options, outcome, asked, zone)
      : (hidden ?? 'There is no result to show.');
  },
};
