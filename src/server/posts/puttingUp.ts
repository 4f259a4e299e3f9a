import type { Content } from '../../core/content/announcement.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { insertCommitted } from '../announcements/store.ts';
import { freezeVersions } from '../announcements/versionStore.ts';
import { recordAll } from '../audit/store.ts';
import type { BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emitAll } from '../events/store.ts';
import { insertMemberPosts, postByKey } from './store.ts';

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
}

type Following = Putting & { after?: (trx: Database, postId: number) => Promise<void> };

/** A text that is put up, as `Putting` says. */
export type ToPutUp = Putting & { content: Content };

/** Puts texts of one person on a board in one transaction, with what is recorded and told of them; gives what each became. */
export async function putUpAll(
  trx: Database,
  actor: Actor,
  board: BoardForReader,
  texts: readonly ToPutUp[],
): Promise<Written[]> {
  const announcements = await insertCommitted(
    trx,
    actor.id,
    texts.map(({ content }) => ({ content, plan: EMPTY_PLAN })),
  );
  const versions = await freezeVersions(
    trx,
    actor.id,
    'sent',
    texts.map(({ content }, at) => ({ announcementId: announcements[at] ?? 0, content, number: null })),
  );
  const put = texts.flatMap(({ content, key, held, originId = null, hookId = null }, at) => {
    const parts = Math.max(1, Math.ceil(content.sections.length / board.sectionLimit));
    return Array.from({ length: parts }, (_each, before) => ({
      at,
      part: before + 1,
      post: {
        boardId: board.id,
        versionId: versions[at] ?? 0,
        authorId: actor.id,
        key: before === 0 ? key : `${key}.${before + 1}`.slice(-80),
        state: held ? ('held' as const) : ('up' as const),
        originId,
        hookId,
        ...(parts > 1 ? { part: { number: before + 1, of: parts, size: board.sectionLimit } } : {}),
      },
    }));
  });
  const ids = await insertMemberPosts(
    trx,
    put.map(({ post }) => post),
  );
  const first = ids.filter((_id, n) => put[n]?.part === 1);
  await recordAll(
    trx,
    texts.map(({ held, originId }, at) => ({
      actorId: actor.id,
      action: held ? 'write, held' : originId === undefined ? 'post' : 'pass on',
      subject: 'board',
      subjectId: board.id,
      detail: { post: first[at] },
    })),
  );
  const written = texts.map(({ held }, at): Written => ({ id: first[at] ?? 0, state: held ? 'held' : 'up' }));
  for (const state of ['up', 'held'] as const)
    await emitAll(
      trx,
      state === 'held' ? 'post.held' : 'post.published',
      written.filter((each) => each.state === state).map(({ id }) => ({ post: id, board: board.id })),
    );
  return written;
}

/** What was put up under a key before; nothing where nothing was. */
export async function putUpBefore(db: Database, actor: Actor, key: string): Promise<Written | undefined> {
  const known = await postByKey(db, actor.id, key);
  return known && { id: known.id, state: known.state === 'held' ? 'held' : 'up' };
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
  options: Following,
): Promise<PutUp> {
  const known = await putUpBefore(db, actor, options.key);
  if (known) return { ...known, known: true };
  const { after, ...putting } = options;
  try {
    return await transact(db, async (trx) => {
      const [written] = await putUpAll(trx, actor, board, [{ ...putting, content }]);
      if (!written) throw new Error('Nothing was put up');
      await after?.(trx, written.id);
      return { ...written, known: false };
    });
  } catch (error) {
    const there = await putUpBefore(db, actor, options.key);
    if (there) return { ...there, known: true };
    throw error;
  }
}

/** As `putUpOnce`, for whoever does not ask whether it was there already. */
export async function putUp(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  content: Content,
  options: Following,
): Promise<Written> {
  const { id, state } = await putUpOnce(db, actor, board, content, options);
  return { id, state };
}
