import type { Handlers } from '../events/follow.ts';
import { notifyPeople } from '../notices/notify.ts';
import { openCalls } from '../comments/store.ts';
import { namesOfPeople } from '../people/store.ts';
import { announcementById, type Announcement } from './store.ts';

const titleOf = (draft: Announcement): string => draft.content.title.trim() || 'a draft without a title';

/** Who is told of what becomes of drafts. */
export const draftNotices: Handlers = {
  // Each comment tells those it calls once, however often the event is followed up.
  'draft.commented': async (trx, of) => {
    const draft = await announcementById(trx, of.announcement);
    if (!draft) return;
    const title = titleOf(draft);
    for (const comment of await openCalls(trx, of.announcement))
      await notifyPeople(trx, comment.called, {
        kind: 'mention',
        title: `${comment.author} calls you: ${title}`,
        text: comment.text,
        path: `/write/${of.announcement}`,
        why: 'You are called by name in a comment on this draft.',
        dedupeKey: `comment:${comment.id}`,
      });
  },
  'draft.shared': async (trx, of) => {
    if (!of.shared) return;
    const [draft, names] = await Promise.all([
      announcementById(trx, of.announcement),
      namesOfPeople(trx, [of.by]),
    ]);
    if (draft?.state !== 'draft') return;
    await notifyPeople(trx, [of.person], {
      kind: 'mention',
      title: `${names.get(of.by) ?? 'Somebody'} shares a draft with you: ${titleOf(draft)}`,
      text: 'You can read it and comment on it before it goes out.',
      path: `/write/${of.announcement}`,
      why: 'A draft was shared with you for comments.',
      dedupeKey: `shared:${of.announcement}`,
    });
  },
  'draft.reviewed': async (trx, of) => {
    const draft = await announcementById(trx, of.announcement);
    if (draft?.review !== 'for review' || draft.reviewAskedId === null) return;
    await notifyPeople(trx, [draft.reviewAskedId], {
      kind: 'mention',
      title: `${draft.reviewByName ?? 'Somebody'} asks you to review: ${titleOf(draft)}`,
      text: 'Read it, then clear it or return it.',
      path: `/write/${of.announcement}`,
      why: 'You are asked by name to review this draft.',
      dedupeKey: `review:${of.announcement}:${draft.reviewMs ?? 0}`,
    });
  },
  'draft.uncleared': async (trx, of) => {
    const draft = await announcementById(trx, of.announcement);
    if (draft)
      await notifyPeople(trx, of.tell, {
        kind: 'decision',
        title: `Changed after it was cleared: ${titleOf(draft)}`,
        text: 'It waits to be cleared again.',
        path: `/write/${of.announcement}`,
        why: 'You cleared this draft, or wrote it.',
        dedupeKey: `uncleared:${of.announcement}:${of.revision}`,
      });
  },
};
