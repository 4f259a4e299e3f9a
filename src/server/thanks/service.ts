import type { z } from 'zod';
import { simpleContent } from '../../core/content/announcement.ts';
import type { Block, Doc, Inline } from '../../core/content/document.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { newRibbonSchema, Ribbon, ThanksListed, thanksSchema } from '../../core/thanks/ribbon.ts';
import { resolveMoment } from '../../core/timing/wallTime.ts';
import { list } from '../../core/words.ts';
import { requireDesk } from '../accounts/require.ts';
import { insertAnnouncement } from '../announcements/store.ts';
import { record } from '../audit/store.ts';
import { boardsSeenBy, isOnAny, requireOnBoard, visibleBoard } from '../boards/service.ts';
import { type Database, isDuplicate, transact } from '../database/connection.ts';
import { hasNoPage, namesOfPeople, personById } from '../people/store.ts';
import { putUp, type Written } from '../posts/puttingUp.ts';
import { notFound, Problem } from '../problem.ts';
import { insertRibbon, insertThanks, retireRibbon, ribbons, thanksBetween, thanksTo } from './store.ts';

/** The ribbons that can be given, and the boards they can be given on. */
export async function thanksChoices(
  db: Database,
  actor: Actor,
): Promise<{ ribbons: Ribbon[]; boards: { id: number; name: string; held: boolean }[] }> {
  const [found, boards] = await Promise.all([ribbons(db), boardsSeenBy(db, actor)]);
  return {
    ribbons: found.map(({ id, name, emblem, colour }) => ({ id, name, emblem, colour })),
    boards: boards.flatMap((board) => {
      const posting = decide(actor, { kind: 'on board', permission: 'post', board: board.rules });
      return board.takesThanks && posting.outcome !== 'denied'
        ? [{ id: board.id, name: board.name, held: posting.outcome === 'held' }]
        : [];
    }),
  };
}

/** Thanks people in public: a post on a board for it, and word to each of them. The same key thanks once. */
export async function giveThanks(
  db: Database,
  actor: Actor,
  input: z.infer<typeof thanksSchema>,
  key: string,
): Promise<Written> {
  const board = await visibleBoard(db, actor, input.boardId);
  const wrong = (field: string, detail: string): Problem =>
    new Problem(422, detail, { errors: [{ field, detail }] });
  if (!board.takesThanks) throw wrong('boardId', 'Thanks are not given on this board. Choose another.');
  const { held } = requireOnBoard(actor, 'post', board);
  const ribbon = (await ribbons(db)).find((each) => each.id === input.ribbonId);
  if (!ribbon) throw wrong('ribbonId', 'There is no such ribbon any more. Choose another.');
  if (input.to.includes(actor.id)) throw wrong('to', 'Somebody else has to thank you. Take yourself out.');
  const names = await namesOfPeople(db, input.to);
  const people = await Promise.all(input.to.map((id) => personById(db, id)));
  const contacts = await Promise.all(input.to.map((id) => hasNoPage(db, id)));
  if (contacts.includes(true) || people.some((person) => !person || person.standing === 'left'))
    throw wrong('to', 'Somebody you thank is not here any more. Take them out.');
  const document: Doc = {
    type: 'doc',
    content: [{ type: 'paragraph', content: [{ type: 'text', text: input.sentence }] }],
  };
  const title = `${ribbon.name}: thank you, ${list(
    input.to.map((id) => names.get(id) ?? ''),
    'and',
  )}`;
  const content = simpleContent(title.length > 150 ? `${title.slice(0, 149)}…` : title, document);
  return putUp(db, actor, board, content, {
    key,
    held,
    after: async (trx, postId) => {
      await insertThanks(trx, {
        ribbonId: ribbon.id,
        fromId: actor.id,
        sentence: input.sentence,
        postId,
        to: input.to,
      });
    },
  });
}

/** Adds a ribbon; only coordinators. */
export async function addRibbon(
  db: Database,
  actor: Actor,
  input: z.infer<typeof newRibbonSchema>,
): Promise<number> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, 'Only a coordinator adds ribbons.');
  return transact(db, async (trx) => {
    const id = await insertRibbon(trx, input).catch((error: unknown) => {
      if (isDuplicate(error)) {
        const detail = 'There is a ribbon of this name already. Choose another name.';
        throw new Problem(422, detail, { errors: [{ field: 'name', detail }] });
      }
      throw error;
    });
    await record(trx, { actorId: actor.id, action: 'add', subject: 'ribbon', subjectId: id });
    return id;
  });
}

/** Takes a ribbon out of use, or brings it back; those who were given it keep it. */
export async function changeRibbon(db: Database, actor: Actor, id: number, retired: boolean): Promise<void> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, 'Only a coordinator takes ribbons out of use.');
  await transact(db, async (trx) => {
    if (!(await retireRibbon(trx, id, retired))) throw notFound('ribbon');
    await record(trx, {
      actorId: actor.id,
      action: retired ? 'retire' : 'bring back',
      subject: 'ribbon',
      subjectId: id,
    });
  });
}

export const allRibbons = (db: Database) => ribbons(db, true);

/** Somebody's page: who they are, and what they were thanked for where the reader may see it. */
export async function personPage(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ name: string; station: string | null; occupation: string; thanks: ThanksListed[] }> {
  const person = await personById(db, id);
  if (!person || person.standing === 'left' || (await hasNoPage(db, id))) throw notFound('person');
  const seen = await boardsSeenBy(db, actor);
  // A guest is told of those they share a board with, and of nobody else.
  if (actor.guest && id !== actor.id && !(await isOnAny(db, id, seen))) throw notFound('person');
  const boards = seen.map((board) => board.id);
  return {
    name: person.guestUntil === null ? person.name : `${person.name} (guest)`,
    station: person.stationName,
    occupation: person.occupation,
    thanks: await thanksTo(db, id, boards),
  };
}

/** The first instants of a month and of the next one, in a zone. */
function monthSpan(month: string, zone: string): [number, number] {
  const [year = 0, number = 1] = month.split('-').map(Number);
  const next = number === 12 ? `${year + 1}-01` : `${year}-${String(number + 1).padStart(2, '0')}`;
  const first = (of: string): number => resolveMoment({ wall: `${of}-01T00:00`, zone }).epochMs;
  return [first(month), first(next)];
}

/** The thanks of a month, where the reader may see them. */
export async function thanksOfMonth(
  db: Database,
  actor: Actor,
  month: string,
  zone: string,
): Promise<ThanksListed[]> {
  const boards = (await boardsSeenBy(db, actor)).map((board) => board.id);
  return thanksBetween(db, ...monthSpan(month, zone), boards);
}

/** A month's thanks as the draft of an announcement, for a coordinator or editor to look over and send. */
export async function draftDigest(
  db: Database,
  actor: Actor,
  month: string,
  words: string,
  zone: string,
): Promise<number> {
  requireDesk(actor);
  const thanks = await thanksOfMonth(db, actor, month, zone);
  if (thanks.length === 0)
    throw new Problem(422, 'Nobody was thanked in that month, so there is nothing to gather.');
  const bold = (text: string): Inline => ({ type: 'text', text, marks: [{ type: 'bold' }] });
  const blocks: Block[] = [
    {
      type: 'bulletList',
      content: thanks.map((given) => ({
        type: 'listItem',
        content: [
          {
            type: 'paragraph',
            content: [
              bold(
                `${list(
                  given.to.map((each) => each.name),
                  'and',
                )} (${given.ribbon.name})`,
              ),
              { type: 'text', text: `: ${given.sentence} ${given.from}` },
            ],
          },
        ],
      })),
    },
  ];
  return transact(db, async (trx) => {
    const id = await insertAnnouncement(
      trx,
      actor.id,
      simpleContent(`Thanks in ${words}`, { type: 'doc', content: blocks }),
      EMPTY_PLAN,
      'draft',
    );
    await record(trx, { actorId: actor.id, action: 'gather thanks', subject: 'announcement', subjectId: id });
    return id;
  });
}
