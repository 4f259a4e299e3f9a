import { normalMail } from '../../core/people/mailAddress.ts';
import { isForGood, recipientsIn } from '../../core/mail-in/report.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import type { ReadMail } from './reading.ts';
import { addressOf, markCameBack, markFailing } from './store.ts';

/**
 * Takes a report that a mail came back (RFC 3464): the mail is one that failed, with its reason, and the address is marked on the
 * person while it is theirs. What is only late, and what cannot be read, changes nothing.
 *
 * @returns whether it said that something came back for good
 */
export async function takeReport(
  db: Database,
  mail: ReadMail,
  { personId, occurrenceId }: { personId: number; occurrenceId: number },
): Promise<boolean> {
  const back = recipientsIn(mail.report ?? '').find(isForGood);
  if (!back) return false;
  const reason = (back.reason || back.status || 'The mail server does not say why.').replace(/\s+/g, ' ');
  await transact(db, async (trx) => {
    const address = await addressOf(trx, personId);
    // A report that names another address is of one they had, or of where theirs hands on to: it says nothing of theirs.
    const named = back.address === '' || normalMail(back.address) === normalMail(address ?? '');
    if (address !== null && named && (await markFailing(trx, personId, address, reason)))
      await emit(trx, 'person.changed', { person: personId });
    const occurrences = await markCameBack(trx, occurrenceId, personId, reason);
    if (occurrences.length > 0) await emit(trx, 'mail.handled', { occurrences });
  });
  return true;
}
