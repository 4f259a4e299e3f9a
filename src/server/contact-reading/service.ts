import type { Post } from '../../core/boards/board.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { boardsFor, type BoardForReader } from '../boards/service.ts';
import { linksOf } from '../boards/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { readLink, signLink } from '../links/signed.ts';
import { readPosts } from '../posts/readable.ts';
import { pinnedPosts, postsPage } from '../posts/store.ts';
import { markRead } from '../posts/readStore.ts';
import { notFound } from '../problem.ts';
import { addressIn } from '../uploads/address.ts';
import { contactById } from './store.ts';

const PAGE = 20;

/** The boards that a linked contact may read: those of whom they are linked to, where a coordinator allows it. */
async function boardsOfContact(db: Database, linkedTo: number): Promise<BoardForReader[]> {
  const actor = await actorOf(db, linkedTo);
  if (!actor) return [];
  return (await boardsFor(db, actor)).filter(
    (board) => board.contactsRead && board.rules.belongs && !board.archived,
  );
}

/** A link by which a linked contact reads a board without signing in, for ninety days. */
export const contactLink = (
  publicUrl: string,
  secret: string,
  nowMs: number,
  contactId: number,
  boardId: number,
): string =>
  `${publicUrl}/m/board/${signLink(secret, { purpose: 'board', occurrenceId: boardId, personId: contactId }, nowMs)}`;

/** The links of a linked contact to the boards they may read, for those who look after people to hand on. */
export async function linksOfContact(
  db: Database,
  actor: Actor,
  contactId: number,
  { publicUrl, secret }: { publicUrl: string; secret: string },
): Promise<{ board: string; url: string }[]> {
  requireLookingAfterPeople(actor);
  const contact = await contactById(db, contactId);
  if (!contact) throw notFound('linked contact');
  const [boards, nowMs] = await Promise.all([boardsOfContact(db, contact.of.id), databaseNow(db)]);
  return boards.map((board) => ({
    board: board.name,
    url: contactLink(publicUrl, secret, nowMs, contact.id, board.id),
  }));
}

/** A board as a linked contact reads it: nothing to answer, react to or write. */
export interface ContactBoard {
  name: string;
  about: string;
  /** Who reads, and whom they are linked to. */
  contact: { id: number; name: string; of: string };
  zone: string;
  nowMs: number;
  boardId: number;
  pinned: Post[];
  links: { label: string; url: string }[];
  posts: Post[];
  next: { postedMs: number; id: number } | null;
}

export type ContactReading =
  { state: 'expired' | 'altered' | 'gone' } | { state: 'good'; page: ContactBoard };

/**
 * Opens a board for a linked contact by their link: as long as it is allowed there, and whom they are linked to belongs to
 * it. Noting that they read is `readByContact`.
 */
export async function openForContact(
  db: Database,
  secret: string,
  token: string,
  before: { postedMs: number; id: number } | null,
): Promise<ContactReading> {
  const nowMs = await databaseNow(db);
  const reading = readLink(secret, token, 'board', nowMs);
  if (reading.state !== 'good') return reading;
  const { personId, occurrenceId: boardId } = reading.claim;
  const contact = await contactById(db, personId);
  const board = contact && (await boardsOfContact(db, contact.of.id)).find((each) => each.id === boardId);
  if (!contact || !board) return { state: 'gone' };
  const [pinned, found, links] = await Promise.all([
    before ? [] : pinnedPosts(db, boardId),
    postsPage(db, boardId, before, PAGE + 1),
    before ? [] : linksOf(db, boardId),
  ]);
  const shown = found.slice(0, PAGE);
  const reader: Actor = { id: contact.id, role: 'member', moderates: new Set(), mayReach: new Set() };
  const read = await readPosts(db, reader, [...pinned, ...shown], new Map([[boardId, board.name]]));
  const last = shown.at(-1);
  return {
    state: 'good',
    page: {
      name: board.name,
      about: board.about,
      contact: { id: contact.id, name: contact.name, of: contact.of.name },
      zone: contact.zone,
      nowMs,
      boardId,
      pinned: read.slice(0, pinned.length),
      links: links.map(({ label, url }) => ({ label, url: addressIn('board', boardId)(url) })),
      posts: read.slice(pinned.length).filter((post) => !pinned.some((each) => each.id === post.id)),
      next: found.length > PAGE && last ? { postedMs: last.postedMs, id: last.id } : null,
    },
  };
}

/** Notes that a linked contact had what a page shows in front of them. */
export async function readByContact(db: Database, page: ContactBoard): Promise<void> {
  const ids = [...page.pinned, ...page.posts].map((post) => post.id);
  if (ids.length > 0) await markRead(db, page.contact.id, page.boardId, ids);
}
