import { reindexCheckIn } from '../asks/check-in/checkInIndexing.ts';
import { reindexLinks } from '../boards/indexing.ts';
import type { Database } from '../database/connection.ts';
import { alsoNotFindable } from './indexStore.ts';
import { indexMissing } from './service.ts';

const AT_ONCE = 200;

/** Makes findable what no event told of: what was loaded, and what an older version left out; some at a time. */
export async function indexLeftOut(db: Database): Promise<void> {
  await indexMissing(db);
  const { boards, checkIns } = await alsoNotFindable(db, AT_ONCE);
  for (const board of boards) await reindexLinks(db, board);
  for (const { occurrenceId, personId } of checkIns) await reindexCheckIn(db, occurrenceId, personId);
}
