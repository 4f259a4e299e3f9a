import { searchText } from '../../core/content/text.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { dayAfter, resolveMoment } from '../../core/timing/wallTime.ts';
import {
  extractAround,
  marked,
  wanted,
  wordsIn,
  type Found,
  type FoundPage,
} from '../../core/search/query.ts';
import type { Search } from '../../core/search/searchSchema.ts';
import { versionById } from '../announcements/versionStore.ts';
import { boardsSeenBy, type BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { namesOfPeople, peopleNamedAmong } from '../people/store.ts';
import { postsOfReplies } from '../replies/store.ts';
import { candidates, categories, foundRows, wordsLike, type Candidate, type FoundRow } from './store.ts';
import { forgetOccurrence, makeFindable, notFindable } from './indexStore.ts';

const PAGE = 20;
const INDEX_BATCH = 100;
/** Most words that are looked for instead of one. */
const MOST_MEANT = 6;

/** Makes findable what the engine has sent or put up since it last looked; gives how many there were. */
export async function indexMissing(db: Database, occurrenceId: number | null = null): Promise<number> {
  const missing = await notFindable(db, INDEX_BATCH, occurrenceId);
  for (const each of missing) {
    const version = await versionById(db, each.versionId);
    if (!version) continue;
    await makeFindable(db, {
      kind: each.kind,
      subjectId: each.id,
      boardId: each.boardId,
      occurrenceId: each.occurrenceId,
      authorId: each.authorId,
      category: version.issue?.category ?? '',
      atMs: each.atMs,
      asks: each.asks === 1,
      title: version.title,
      body: searchText(version.sections),
    });
  }
  return missing.length;
}

/** Puts the words of an occurrence as it now stands in the place of those it had, where it is found. */
export async function indexOccurrence(db: Database, occurrenceId: number): Promise<void> {
  await forgetOccurrence(db, occurrenceId);
  while ((await indexMissing(db, occurrenceId)) === INDEX_BATCH);
}

const pathOf = (row: FoundRow, postOf: ReadonlyMap<number, number>, actor: Actor): string => {
  switch (row.kind) {
    case 'announcement':
      return actor.role === 'coordinator' || (actor.role === 'editor' && row.authorId === actor.id)
        ? `/sends/${row.subjectId}`
        : `/for-me/${row.subjectId}`;
    case 'post':
      return `/posts/${row.subjectId}`;
    case 'reply':
      return `/posts/${postOf.get(row.subjectId) ?? 0}#reply-${row.subjectId}`;
    case 'answer':
      return `/shelf/${row.subjectId}`;
    case 'link':
      return `/boards/${row.boardId ?? 0}#links`;
    case 'check-in':
      return `/check-ins/${row.occurrenceId ?? 0}#said-${row.authorId}`;
  }
};

/** What this person may see that holds the words, best first. */
export async function search(db: Database, actor: Actor, zone: string, asked: Search): Promise<FoundPage> {
  const boards = await boardsSeenBy(db, actor);
  const byId = new Map(boards.map((board) => [board.id, board]));
  const inGroup = (groupId: number): number[] =>
    boards.filter((board) => board.groupId === groupId).map((board) => board.id);
  const at = (date: string): number => resolveMoment({ wall: `${date}T00:00`, zone }).epochMs;
  const looked = wanted(asked.q);
  const sight = {
    personId: actor.id,
    boardIds: boards.map((board) => board.id),
    everything: actor.role === 'coordinator',
    ownSends: actor.role === 'editor',
    shelf: decide(actor, { kind: 'see the shelf' }).outcome === 'allowed',
  };
  const filters = {
    kind: asked.kind,
    boardIds:
      asked.board !== undefined
        ? [asked.board]
        : asked.group !== undefined
          ? inGroup(asked.group)
          : undefined,
    authorId: asked.author,
    category: asked.category,
    fromMs: asked.from === undefined ? undefined : at(asked.from),
    beforeMs: asked.to === undefined ? undefined : at(dayAfter(asked.to)),
    asks: asked.asks,
  };
  const asWritten = await candidates(db, looked, sight, filters);
  // What is misspelt is looked for by the words it may have meant; what is found is only what may be seen, as ever.
  const alike =
    asWritten.length > 0 ? [] : await Promise.all(looked.map((word) => wordsLike(db, word, MOST_MEANT)));
  const best = alike.some((each) => each.length > 0)
    ? await candidates(db, looked, sight, filters, alike)
    : asWritten;
  const marks = [...looked, ...alike.flat()];
  const once = onceEach(best);
  const page = await foundRows(
    db,
    once.slice(asked.after, asked.after + PAGE).map((each) => each.id),
  );
  const postOf = await postsOfReplies(
    db,
    page.filter((row) => row.kind === 'reply').map((row) => row.subjectId),
  );
  return {
    found: page.map((row): Found => ({
      kind: row.kind,
      path: pathOf(row, postOf, actor),
      title: marked(row.title, marks),
      extract: marked(extractAround(row.body, marks), marks),
      author: row.authorName,
      where: whereOf(row, byId),
      atMs: row.atMs,
      asks: row.asks === 1,
      category: row.category,
    })),
    instead: standingIn(page, alike.flat()),
    next: once.length > asked.after + PAGE ? asked.after + PAGE : null,
  };
}

/** Those of some words that stand in what was found, so that nobody is told a word of what they may not see. */
function standingIn(found: readonly FoundRow[], words: readonly string[]): string[] {
  if (words.length === 0) return [];
  const there = new Set(found.flatMap((row) => wordsIn(`${row.title} ${row.body}`)));
  return [...new Set(words)].filter((word) => there.has(word));
}

/** What went out and stands on boards as well is found once: as what went out, where that may be seen. */
function onceEach(found: readonly Candidate[]): Candidate[] {
  const first = new Map<number, Candidate>();
  for (const each of found)
    if (each.occurrenceId !== null) {
      const known = first.get(each.occurrenceId);
      if (!known || (known.kind === 'post' && each.kind === 'announcement'))
        first.set(each.occurrenceId, each);
    }
  return found.filter((each) => each.occurrenceId === null || first.get(each.occurrenceId) === each);
}

function whereOf(row: FoundRow, boards: ReadonlyMap<number, BoardForReader>): string {
  if (row.kind === 'answer') return 'the shelf';
  if (row.boardId === null) return 'an announcement';
  return boards.get(row.boardId)?.name ?? '';
}

/** What a search can be narrowed by. */
export async function searchChoices(
  db: Database,
  actor: Actor,
  author: number | undefined,
): Promise<{
  boards: { id: number; name: string }[];
  groups: { id: number; name: string }[];
  categories: string[];
  author: string | null;
}> {
  const [boards, now, found, names] = await Promise.all([
    boardsSeenBy(db, actor),
    audienceContext(db),
    categories(db),
    namesOfPeople(db, author === undefined ? [] : [author]),
  ]);
  const groupIds = [...new Set(boards.flatMap((board) => board.groupId ?? []))];
  return {
    boards: boards.map(({ id, name }) => ({ id, name })),
    groups: groupIds.flatMap((id) => {
      const name = now.groups.get(id)?.name;
      return name === undefined ? [] : [{ id, name }];
    }),
    categories: found,
    author: author === undefined ? null : (names.get(author) ?? null),
  };
}

/**
 * People whose name holds some letters and who wrote something that can be found, as names to choose from; for a guest, those
 * who wrote on a board they see.
 */
export async function authorsNamed(
  db: Database,
  actor: Actor,
  letters: string,
): Promise<{ kind: 'person'; id: number; name: string; detail: string }[]> {
  const boards = actor.guest ? (await boardsSeenBy(db, actor)).map((board) => board.id) : [];
  const wrote = actor.guest
    ? {
        sql: `p.id IN (SELECT f.author_id FROM findables f WHERE f.board_id IN (${[0, ...boards].map(() => '?').join(', ')}))`,
        bindings: [0, ...boards],
      }
    : { sql: 'p.id IN (SELECT f.author_id FROM findables f)', bindings: [] };
  const found = await peopleNamedAmong(db, wrote, letters.trim(), 8);
  return found.map(({ id, name, station }) => ({ kind: 'person', id, name, detail: station ?? '' }));
}
