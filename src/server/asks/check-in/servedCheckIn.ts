import type { CheckInBox } from '../../../core/asks/box.ts';
import { prefilled, type Question } from '../../../core/asks/check-in/checkIn.ts';
import type { CheckInAsk } from '../../../core/asks/check-in/checkInAsk.ts';
import { people } from '../../../core/words.ts';
import type { Database } from '../../database/connection.ts';
import type { Reader, ServedKind } from '../kind.ts';
import { saidBefore, saidBy } from './checkInStore.ts';
import { postDigest } from './digestPosting.ts';
import { writeCheckIns } from './saying.ts';

async function checkInBox(
  db: Database,
  reader: Reader,
  occurrenceId: number,
  sendId: number,
  questions: Question[],
  answered: boolean,
): Promise<CheckInBox> {
  if (answered) {
    const said = await saidBy(db, occurrenceId, reader.id);
    return { questions, answers: said?.answers ?? {}, offered: false };
  }
  const answers = prefilled(questions, await saidBefore(db, sendId, occurrenceId, reader.id));
  return { questions, answers, offered: Object.keys(answers).length > 0 };
}

export const SERVED_CHECK_IN: ServedKind<CheckInAsk> = {
  canChange: true,
  page: 'answer',
  letter: () => ({ deed: 'Check in', says: '', choices: [], please: 'Please check in' }),
  box: async (db, _secret, reader, { id, sendId }, { questions }, { answered }) => ({
    poll: null,
    checkIn: await checkInBox(db, reader, id, sendId, questions, answered),
  }),
  write: (trx, occurrenceId, given, _isFirst, refused) => writeCheckIns(trx, occurrenceId, given, refused),
  async closed(trx, occurrence, ask) {
    if (ask.digestOn.length > 0) await postDigest(trx, occurrence, ask);
  },
  outcomeWords: (_db, _id, _ask, { answered, asked }) =>
    Promise.resolve(`${answered} of ${people(asked)} have checked in.`),
};
