import type { Actor } from '../../core/rights/decide.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { deedsOn, type DeedRow } from '../audit/store.ts';
import type { Database } from '../database/connection.ts';

/** What was done with an announcement and its sends, by whom and when, the latest first. */
export async function history(db: Database, actor: Actor, announcementId: number): Promise<DeedRow[]> {
  await openAnnouncement(db, actor, announcementId);
  return deedsOn(db, announcementId);
}
