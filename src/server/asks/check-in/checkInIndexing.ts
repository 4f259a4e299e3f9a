import type { Database } from '../../database/connection.ts';
import { makeFindable } from '../../search/indexStore.ts';
import { occurrenceById } from '../../sends/occurrenceStore.ts';
import { checkInOf } from './checkInStore.ts';

/** Makes what somebody said in a check-in findable for those who are in it and whoever asked, as it now stands. */
export async function reindexCheckIn(db: Database, occurrenceId: number, personId: number): Promise<void> {
  const [said, occurrence] = await Promise.all([
    checkInOf(db, occurrenceId, personId),
    occurrenceById(db, occurrenceId),
  ]);
  if (!said || !occurrence) return;
  await makeFindable(db, {
    kind: 'check-in',
    subjectId: said.id,
    boardId: null,
    occurrenceId,
    authorId: personId,
    category: '',
    atMs: said.answeredMs,
    asks: false,
    title: `${occurrence.title}: ${said.name}`,
    body: said.texts.join('\n'),
  });
}
