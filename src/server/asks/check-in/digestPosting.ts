import type { CheckInAsk } from '../../../core/asks/check-in/checkInAsk.ts';
import { digestDocument } from '../../../core/asks/check-in/checkIn.ts';
import { simpleContent } from '../../../core/content/announcement.ts';
import { EMPTY_PLAN } from '../../../core/plan/plan.ts';
import { shortDate } from '../../../core/timing/words.ts';
import { insertAnnouncement } from '../../announcements/store.ts';
import { freezeVersion } from '../../announcements/versionStore.ts';
import { allBoards } from '../../boards/store.ts';
import type { Database } from '../../database/connection.ts';
import { emit } from '../../events/store.ts';
import { organisation } from '../../people/store.ts';
import { insertMemberPost } from '../../posts/store.ts';
import type { Occurrence } from '../../sends/occurrenceStore.ts';
import { dateOf } from './checkInDate.ts';
import { notHeardFrom, saidIn } from './checkInStore.ts';

const MOST_SAID = 500;
const MOST_MISSING = 200;

/** Posts what was said in a check-in to the boards chosen for it, under the name of whoever asked. */
export async function postDigest(trx: Database, occurrence: Occurrence, ask: CheckInAsk): Promise<void> {
  const { id } = occurrence;
  const [said, missing, home, boards] = await Promise.all([
    saidIn(trx, id, MOST_SAID),
    notHeardFrom(trx, id, MOST_MISSING),
    organisation(trx),
    allBoards(trx),
  ]);
  if (said.length === 0 && missing.length === 0) return;
  const date = dateOf(
    occurrence.plan,
    occurrence.movedTo ?? occurrence.recursAt,
    occurrence.dueMs,
    home?.zone ?? 'UTC',
  );
  const title = `${occurrence.title}, ${shortDate(Date.parse(`${date}T12:00Z`), 'UTC')}`.slice(0, 150);
  const content = simpleContent(
    title,
    digestDocument(
      ask.questions,
      said,
      missing.map((person) => person.name),
    ),
  );
  const announcementId = await insertAnnouncement(
    trx,
    occurrence.createdBy,
    content,
    EMPTY_PLAN,
    'committed',
  );
  const versionId = await freezeVersion(trx, announcementId, occurrence.createdBy, content, 'sent');
  for (const board of boards.filter(
    (each) => ask.digestOn.includes(each.id) && !each.archived && each.automations,
  )) {
    const postId = await insertMemberPost(trx, {
      boardId: board.id,
      versionId,
      authorId: occurrence.createdBy,
      key: `digest-${id}-${board.id}`,
    });
    await emit(trx, 'post.published', { post: postId, board: board.id });
  }
}
