import type { Handlers } from '../events/follow.ts';
import { notifyPeople } from '../notices/notify.ts';
import { announcementById } from './store.ts';

/** Who is told of what becomes of drafts. */
export const draftNotices: Handlers = {
  'draft.uncleared': async (trx, of) => {
    const draft = await announcementById(trx, of.announcement);
    if (draft)
      await notifyPeople(trx, of.tell, {
        kind: 'decision',
        title: `Changed after it was cleared: ${draft.content.title.trim() || 'a draft without a title'}`,
        text: 'It waits to be cleared again.',
        path: `/write/${of.announcement}`,
        why: 'You cleared this draft, or wrote it.',
        about: `uncleared:${of.announcement}:${of.revision}`,
      });
  },
};
