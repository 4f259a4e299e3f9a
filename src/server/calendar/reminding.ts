import { spanWords } from '../../core/timing/words.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyEverybody } from '../notices/notify.ts';
import { claimReminder, dateById, hasNotDeclined } from './dateStore.ts';
import { sessionById } from './store.ts';
import { invitedTo } from './visible.ts';

/**
 * Reminds of the dates that are due for it, each once, everybody who has not said no. What has begun meanwhile is not reminded
 * of any more. Says of how many dates.
 */
export async function remindOfSessions(db: Database): Promise<number> {
  for (let reminded = 0; ; reminded++) {
    const more = await transact(db, async (trx) => {
      const claimed = await claimReminder(trx);
      if (!claimed) return false;
      const date = await dateById(trx, claimed.id);
      const session = date && (await sessionById(trx, date.sessionId));
      const nowMs = await databaseNow(trx);
      if (!date || !session || date.startMs <= nowMs) return true;
      const who = invitedTo(session.audience, await audienceContext(trx));
      const open = hasNotDeclined(date.id);
      await notifyEverybody(
        trx,
        { sql: `(${who.sql}) AND ${open.sql}`, bindings: [...who.bindings, ...open.bindings] },
        {
          kind: 'session',
          title: `${date.title} begins in ${spanWords(date.startMs - nowMs)}`,
          text: [date.place, date.link, date.note].filter((part) => part !== '').join(' · '),
          path: `/calendar/dates/${date.id}`,
          why: 'It is for a group you are in, and you have not said that you do not come.',
          dedupeKey: `session date ${date.id} reminder ${date.sequence}`,
        },
      );
      return true;
    });
    if (!more) return reminded;
  }
}
