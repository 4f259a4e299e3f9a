import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyEverybody } from '../notices/notify.ts';
import { hasNotDeclined } from './dateStore.ts';
import type { CalendarSession } from './store.ts';
import { invitedTo } from './visible.ts';

/** Tells whoever a date is for of a change of it, except who has said that they do not come. */
export async function notifyOfDate(
  trx: Database,
  session: CalendarSession,
  date: { id: number },
  told: { title: string; text: string; dedupeKey: string },
): Promise<void> {
  const who = invitedTo(session.audience, await audienceContext(trx));
  const open = hasNotDeclined(date.id);
  await notifyEverybody(
    trx,
    { sql: `(${who.sql}) AND ${open.sql}`, bindings: [...who.bindings, ...open.bindings] },
    {
      kind: 'session',
      ...told,
      path: `/calendar/dates/${date.id}`,
      why: 'It is for a group you are in, and you have not said that you do not come.',
    },
  );
}
