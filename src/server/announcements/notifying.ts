import type { Handlers } from '../events/follow.ts';
import { notifyPeople } from '../notices/notify.ts';
import { openCalls } from '../comments/store.ts';
import { announcementById } from './store.ts';

/** Who is told of what becomes of drafts. */
export const draftNotices: Handlers = {
  // Each comment tells those it calls once, however often the event is followed up.
  'draft.commented': async (trx, of) => {
    const draft = await announcementById(trx, of.announcement);
    if (!draft) return;
    const title = draft.content.title.trim() || 'a draft without a title';
    for (const comment of await openCalls(trx, of.announcement))
      await notifyPeople(trx, comment.called, {
        kind: 'mention',
        title: `${comment.author} calls you: ${title}`,
        text: comment.text,
        path: `/write/${of.announcement}`,
        why: 'You are called by name in a comment on this draft.',
        about: `comment:${comment.id}`,
      });
  },
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
