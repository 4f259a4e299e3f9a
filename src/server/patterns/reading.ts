import type { PatternKind, PatternPart } from '../../core/patterns/pattern.ts';
import { automationById } from '../automations/store.ts';
import { switchesOf } from '../boards/service.ts';
import { allBoards, linksOf } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { allGroups } from '../groups/store.ts';
import { waysOfGroup } from '../groups/wayStore.ts';
import { pinnedPosts, type PostRow } from '../posts/store.ts';
import { sheetById } from '../sheets/store.ts';

/** A pinned post as a part. The issue of a series, and the date of a calendar it tells of, stay where they are. */
export const pinPart = (post: PostRow): PatternPart => ({
  kind: 'pin',
  id: post.id,
  boardId: post.boardId,
  content: {
    title: post.title,
    byline: post.byline,
    importance: post.importance,
    ...post.body,
    issue: null,
  },
});

/**
 * Something here as the part of a pattern, with its ids as they are here; nothing where it is gone, archived, or pinned no more.
 *
 * @param boardId of a pinned post, the board it stands on
 */
export async function partHere(
  db: Database,
  kind: PatternKind,
  id: number,
  boardId: number | null = null,
): Promise<PatternPart | null> {
  switch (kind) {
    case 'group': {
      const group = (await allGroups(db)).find((each) => each.id === id && !each.archived);
      const ways = group && (await waysOfGroup(db, id));
      return group && ways
        ? { kind, id, name: group.name, rule: group.kind === 'live' ? group.rule : null, ...ways }
        : null;
    }
    case 'board': {
      const board = (await allBoards(db)).find((each) => each.id === id && !each.archived);
      if (!board) return null;
      const { name, about, groupId, sectionLimit, pinLimit, contactsRead } = board;
      const links = (await linksOf(db, id)).map(({ label, url }) => ({ label, url }));
      return {
        kind,
        id,
        name,
        groupId,
        links,
        about,
        ...switchesOf(board),
        sectionLimit,
        pinLimit,
        contactsRead,
      };
    }
    case 'pin': {
      const post = (await pinnedPosts(db, boardId ?? 0)).find((each) => each.id === id);
      return post ? pinPart(post) : null;
    }
    case 'sheet': {
      const sheet = await sheetById(db, id);
      if (!sheet) return null;
      const { name, purpose, columns, form, seenBy, formKey } = sheet;
      return { kind, id, name, purpose, columns, form, seenBy, formKey: form ? formKey : null };
    }
    case 'automation': {
      const found = await automationById(db, id);
      return found ? { kind, id, automation: found.live ?? found.draft } : null;
    }
  }
}
