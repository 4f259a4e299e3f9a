import { notifyPeople } from '../notices/notify.ts';
import type { Handlers } from '../events/follow.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { checkInReplyById, repliersTo, saidBy } from './check-in/checkInStore.ts';

/** Who is told of what is said in check-ins. */
export const askNotices: Handlers = {
  'check-in.replied': async (trx, of) => {
    const [occurrence, said, reply, repliers] = await Promise.all([
      occurrenceById(trx, of.occurrence),
      saidBy(trx, of.occurrence, of.person),
      checkInReplyById(trx, of.reply),
      repliersTo(trx, of.occurrence, of.person),
    ]);
    if (!occurrence || !said || reply === undefined) return;
    const others = [...new Set([of.person, ...repliers])].filter((id) => id !== of.by);
    await notifyPeople(trx, others, {
      kind: 'reply',
      title: `Re: ${said.name}, ${occurrence.title}`,
      text: reply,
      path: `/check-ins/${of.occurrence}`,
      why: 'It is a reply to what you said in a check-in, or replied to.',
      dedupeKey: `check-in:${of.occurrence}:${of.person}:${of.reply}`,
    });
  },
};
