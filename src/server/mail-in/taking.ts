import type { Logger } from 'pino';
import { automaticKind, isLoop } from '../../core/mail-in/automatic.ts';
import { isAuthentic } from '../../core/mail-in/authentication.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import type { Database } from '../database/connection.ts';
import { hookInByMailKey } from '../gateways/inStore.ts';
import { Problem } from '../problem.ts';
import { readMailAddress } from './address.ts';
import { answerByMail } from './answering.ts';
import { postByMail } from './posting.ts';
import { readMail } from './reading.ts';
import { takeReport } from './reporting.ts';

/** What taking mail needs to know of the world. */
export interface MailInWorld {
  db: Database;
  log: Logger;
  attempts: AttemptLimit;
  secret: string;
  domain: string;
  /** The name under which the mail server in front writes its results. */
  server: string;
}

const nobody = (): Problem => new Problem(404, 'Nobody is reached at this address.');

/** Whether an address is one of ours and still there. */
export async function isTaken({ db, secret, domain }: MailInWorld, recipient: string): Promise<boolean> {
  const address = readMailAddress(secret, domain, recipient);
  if (!address) return false;
  return address.kind !== 'way in' || (await hookInByMailKey(db, address.key)) !== undefined;
}

/**
 * Takes a mail for one of our addresses and does with it what it is for. What nobody wrote is never answered or posted, and is
 * taken without a word, so that no report of it goes round in a circle.
 *
 * @param sender the address of the envelope; empty for a report
 * @throws a problem with what is told to the server that sent it
 */
export async function takeMail(
  world: MailInWorld,
  { sender, recipient, raw }: { sender: string; recipient: string; raw: Buffer },
): Promise<void> {
  const { db, log, secret, domain, server, attempts } = world;
  const address = readMailAddress(secret, domain, recipient);
  if (!address) throw nobody();
  const mail = await readMail(raw);
  if (isLoop(mail.headers, domain)) throw new Problem(409, 'It has been here before: it goes in a circle.');
  const automatic = automaticKind(mail.headers, sender);
  switch (address.kind) {
    case 'back': {
      const known = await takeReport(db, mail, address);
      log.info({ known, automatic }, 'something came back');
      return;
    }
    case 'answer': {
      if (automatic !== null) {
        log.info({ automatic }, 'an answer that nobody wrote was passed over');
        return;
      }
      if (!isAuthentic(mail.headers, server, mail.from))
        throw new Problem(403, 'The mail server in front could not prove that it comes from where it says.');
      await attempts.letter(address.personId);
      await answerByMail(db, mail, address);
      return;
    }
    case 'way in': {
      const hook = await hookInByMailKey(db, address.key);
      if (!hook) throw nobody();
      const authentic = isAuthentic(mail.headers, server, mail.from);
      await postByMail(db, hook, mail, { attempts, sender, authentic }).catch((error: unknown) => {
        // Refusing what a machine sent by itself would make another: it stands in the log instead.
        if (
          error instanceof Problem &&
          error.status !== 429 &&
          (automatic === 'automatic answer' || automatic === 'report')
        )
          return;
        throw error;
      });
    }
  }
}
