import type { Actor } from '../../core/rights/decide.ts';
import { setFollow } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { visiblePost } from './opening.ts';

/** Follows or mutes what is said to a post, or neither. */
export async function followPost(
  db: Database,
  actor: Actor,
  id: number,
  choice: 'follow' | 'mute' | null,
): Promise<void> {
  await visiblePost(db, actor, id);
  await setFollow(db, actor.id, 'post', id, choice);
}
