import type { Content } from '../../core/content/announcement.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { insertAnnouncement } from '../announcements/store.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import type { BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { insertMemberPost, postByKey } from './store.ts';

/** What became of a post: it is up, or waits. */
export interface Written {
  id: number;
  state: 'up' | 'held';
}

/** As `Written`, with whether it was there already under its key. */
type PutUp = Written & { known: boolean };

interface Putting {
  key: string;
  held: boolean;
  originId?: number;
  /** The way in it came by. */
  hookId?: number;
  after?: (trx: Database, postId: number) => Promise<void>;
}

/**
 * Puts a text on a board under a key, once, with all that follows from it, and tells whether it was there already. Call it with
 * the right already asked for.
 */
export async function putUpOnce(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  content: Content,
  options: Putting,
): Promise<PutUp> {
  const known = await postByKey(db, actor.id, options.key);
  if (known) return { id: known.id, state: known.state === 'held' ? 'held' : 'up', known: true };
  const state = options.held ? 'held' : 'up';
  const parts = Math.max(1, Math.ceil(content.sections.length / board.sectionLimit));
  try {
    return await transact(db, async (trx) => {
      const versionId = await freezeVersion(
        trx,
        await insertAnnouncement(trx, actor.id, content, EMPTY_PLAN, 'committed'),
        actor.id,
        content,
        'sent',
      );
      const put = (part: number): Promise<number> =>
        insertMemberPost(trx, {
          boardId: board.id,
          versionId,
          authorId: actor.id,
          key: part === 1 ? options.key : `${options.key}.${part}`.slice(-80),
          state,
          originId: options.originId ?? null,
          hookId: options.hookId ?? null,
          ...(parts > 1 ? { part: { number: part, of: parts, size: board.sectionLimit } } : {}),
        });
      const id = await put(1);
      for (let part = 2; part <= parts; part++) await put(part);
      await options.after?.(trx, id);
      await record(trx, {
        actorId: actor.id,
        action: options.held ? 'write, held' : options.originId === undefined ? 'post' : 'pass on',
        subject: 'board',
        subjectId: board.id,
        detail: { post: id },
      });
      await emit(trx, options.held ? 'post.held' : 'post.published', { post: id, board: board.id });
      return { id, state, known: false };
    });
  } catch (error) {
    const written = await postByKey(db, actor.id, options.key);
    if (written) return { id: written.id, state: written.state === 'held' ? 'held' : 'up', known: true };
    throw error;
  }
}

/** As `putUpOnce`, for whoever does not ask whether it was there already. */
export async function putUp(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  content: Content,
  options: Putting,
): Promise<Written> {
  const { id, state } = await putUpOnce(db, actor, board, content, options);
  return { id, state };
}
