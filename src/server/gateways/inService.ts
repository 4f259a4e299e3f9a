import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import { hookOf } from '../../core/automation/automation.ts';
import {
  hookInSchema,
  hookSentence,
  type HookIn,
  type HookInPage,
  type HookLine,
} from '../../core/gateways/hookIn.ts';
import { decide, moderates, type Actor } from '../../core/rights/decide.ts';
import { list } from '../../core/words.ts';
import { record } from '../audit/store.ts';
import { allAutomations, liveAutomations } from '../automations/store.ts';
import { allSenders } from '../senders/store.ts';
import { boardsSeenBy } from '../boards/service.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceContext } from '../groups/directory.ts';
import { notFound, Problem } from '../problem.ts';
import {
  allHooksIn,
  callFigures,
  deleteHookInById,
  hookInById,
  insertHookIn,
  lastCalls,
  saveHookIn,
  setHookInOn,
  setHookInSecret,
  type HookInRow,
} from './inStore.ts';
import { wayInAddress } from '../mail-in/address.ts';
import type { Settings } from '../settings.ts';
import { freshSecret } from './sealing.ts';

export const hookInSavedSchema = hookInSchema.and(z.object({ revision: z.int().positive() }));
export const onSchema = z.object({ on: z.boolean() });

const CALLS_SHOWN = 50;

/** The boards somebody moderates; a coordinator moderates all. */
const boardsModerated = async (db: Database, actor: Actor): Promise<Map<number, string>> =>
  new Map(
    (await boardsSeenBy(db, actor))
      .filter((board) => !board.archived && moderates(actor, board.rules))
      .map((board) => [board.id, board.name]),
  );

/** Whoever makes ways in: coordinators any, a board's moderator those of their board. @throws 403 */
export async function requireGateways(db: Database, actor: Actor): Promise<void> {
  if (actor.role === 'coordinator') return;
  if ((await boardsModerated(db, actor)).size === 0)
    throw new Problem(403, 'Only coordinators, and those who moderate a board, look after gateways.');
}

async function mayKeep(db: Database, actor: Actor, { target }: HookIn): Promise<boolean> {
  if (actor.role === 'coordinator') return true;
  return target.kind === 'board' && (await boardsModerated(db, actor)).has(target.boardId);
}

/** A way in that this person may see and change. @throws a 404 problem where there is none, or it is not theirs */
export async function requireHookIn(db: Database, actor: Actor, id: number): Promise<HookInRow> {
  const row = await hookInById(db, id);
  if (!row || !(await mayKeep(db, actor, row.hook))) throw notFound('way in');
  return row;
}

/** Refuses a way in that leads where its maker may not bring anything. */
async function requireTarget(db: Database, actor: Actor, hook: HookIn): Promise<void> {
  const refuse = (field: string, detail: string): Problem =>
    new Problem(422, detail, { errors: [{ field, detail }] });
  const { target } = hook;
  if (actor.role !== 'coordinator' && target.kind !== 'board')
    throw refuse('target', 'Moderators make ways in to their boards. Choose one of them.');
  if (target.kind === 'board') {
    const board = (await boardsSeenBy(db, actor)).find((each) => each.id === target.boardId);
    if (!board || (actor.role !== 'coordinator' && !moderates(actor, board.rules)))
      throw refuse('target', 'There is no such board, or it is not yours to look after. Choose another.');
    const decision = decide(actor, { kind: 'on board', permission: 'bring in', board: board.rules });
    if (decision.outcome === 'denied')
      throw refuse('target', `${decision.reason} Allow it in the settings of the board first.`);
  }
  if (target.kind === 'group' && !(await audienceContext(db)).groups.has(target.groupId))
    throw refuse('target', 'That group is not there any more. Choose another.');
}

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a way in of this name already.', {
    errors: [{ field: 'name', detail: 'There is a way in of this name already. Choose another name.' }],
  });
};

const noted = (trx: Database, actor: Actor, action: string, id: number): Promise<void> =>
  Promise.all([
    record(trx, { actorId: actor.id, action, subject: 'way in', subjectId: id }),
    emit(trx, 'hook.changed', { hook: id, way: 'in' }),
  ]).then(() => undefined);

/** Makes a way in. Its secret is told this once. */
export async function addHookIn(
  db: Database,
  actor: Actor,
  hook: HookIn,
  sealWith: string,
): Promise<{ id: number; secret: string }> {
  await requireGateways(db, actor);
  await requireTarget(db, actor, hook);
  const { secret, sealed } = freshSecret(sealWith);
  return transact(db, async (trx) => {
    const id = await insertHookIn(trx, {
      hook,
      addressKey: randomBytes(16).toString('base64url'),
      mailKey: randomBytes(10).toString('hex'),
      sealed,
      ownerId: actor.id,
    });
    await noted(trx, actor, 'make', id);
    return { id, secret };
  }).catch(nameTaken);
}

/** Changes a way in; whoever changes it looks after it from then on, so that its rights are those of somebody who saw it. */
export async function alterHookIn(
  db: Database,
  actor: Actor,
  id: number,
  { revision, ...hook }: z.infer<typeof hookInSavedSchema>,
): Promise<void> {
  await requireHookIn(db, actor, id);
  await requireTarget(db, actor, hook);
  await transact(db, async (trx) => {
    if (!(await saveHookIn(trx, id, revision, hook, actor.id)))
      throw new Problem(409, 'Somebody changed this way in a moment ago. Read it again.', {
        more: { revision: (await hookInById(trx, id))?.revision ?? revision },
      });
    await noted(trx, actor, 'change', id);
  }).catch(nameTaken);
}

export async function switchHookIn(db: Database, actor: Actor, id: number, on: boolean): Promise<void> {
  await requireHookIn(db, actor, id);
  await transact(db, async (trx) => {
    await setHookInOn(trx, id, on);
    await noted(trx, actor, on ? 'switch on' : 'switch off', id);
  });
}

/** Gives a way in a new secret, which is told this once; calls with the one before are refused from now on. */
export async function renewHookIn(
  db: Database,
  actor: Actor,
  id: number,
  sealWith: string,
): Promise<{ secret: string }> {
  await requireHookIn(db, actor, id);
  const { secret, sealed } = freshSecret(sealWith);
  await transact(db, async (trx) => {
    await setHookInSecret(trx, id, sealed);
    await noted(trx, actor, 'renew secret', id);
  });
  return { secret };
}

/** Deletes a way in with its log; what came by it stays where it is. */
export async function deleteHookIn(db: Database, actor: Actor, id: number): Promise<void> {
  await requireHookIn(db, actor, id);
  await transact(db, async (trx) => {
    const listening = (await allAutomations(trx)).filter(({ draft, live }) =>
      [draft, live].some((each) => each && hookOf(each.when) === id),
    );
    if (listening.length > 0)
      throw new Problem(
        409,
        `${list(
          listening.map(({ draft }) => `“${draft.name}”`),
          'and',
        )} ${listening.length === 1 ? 'listens' : 'listen'} to it. Let them listen to something else first.`,
      );
    await deleteHookInById(trx, id);
    await noted(trx, actor, 'delete', id);
  });
}

async function sentences(db: Database, actor: Actor): Promise<(row: HookInRow) => string> {
  const [boards, now, senders, live] = await Promise.all([
    boardsSeenBy(db, actor),
    audienceContext(db),
    allSenders(db),
    liveAutomations(db),
  ]);
  return ({ id, hook }) =>
    hookSentence(hook, {
      board:
        hook.target.kind === 'board'
          ? boards.find((each) => hook.target.kind === 'board' && each.id === hook.target.boardId)?.name
          : undefined,
      group: hook.target.kind === 'group' ? now.groups.get(hook.target.groupId)?.name : undefined,
      sender: senders.find((each) => each.id === hook.senderId)?.name,
      automations: live.flatMap(({ live: { when, name } }) =>
        when.kind === 'called' && when.hookId === id ? [name] : [],
      ),
    });
}

/** The ways in this person looks after, by name, those in trouble first. */
export async function listHooksIn(db: Database, actor: Actor): Promise<HookLine[]> {
  await requireGateways(db, actor);
  const [all, figures, read, boards] = await Promise.all([
    allHooksIn(db),
    callFigures(db),
    sentences(db, actor),
    boardsModerated(db, actor),
  ]);
  const lines = all
    .filter(
      ({ hook: { target } }) =>
        actor.role === 'coordinator' || (target.kind === 'board' && boards.has(target.boardId)),
    )
    .map((row): HookLine => {
      const of = figures.get(row.id);
      return {
        id: row.id,
        name: row.hook.name,
        on: row.on,
        sentence: read(row),
        owner: row.owner,
        taken: of?.taken ?? 0,
        refused: of?.refused ?? 0,
        lastMs: of?.lastMs ?? null,
        trouble: of?.trouble ?? null,
      };
    });
  return lines.sort((a, b) => Number(b.trouble !== null) - Number(a.trouble !== null));
}

/** Where ways in are reached: the address of the application, and the domain mail is taken at. */
export const hereIn = ({
  CLEAR_BELL_URL,
  MAIL_IN_DOMAIN,
}: Pick<Settings, 'CLEAR_BELL_URL' | 'MAIL_IN_DOMAIN'>): {
  publicUrl: string;
  mailDomain: string | null;
} => ({
  publicUrl: CLEAR_BELL_URL,
  mailDomain: MAIL_IN_DOMAIN ?? null,
});

/** A way in with its last calls. */
export async function openHookIn(
  db: Database,
  actor: Actor,
  id: number,
  { publicUrl, mailDomain }: { publicUrl: string; mailDomain: string | null },
): Promise<HookInPage> {
  const row = await requireHookIn(db, actor, id);
  const [calls, read] = await Promise.all([lastCalls(db, id, CALLS_SHOWN), sentences(db, actor)]);
  return {
    id,
    hook: row.hook,
    on: row.on,
    revision: row.revision,
    address: new URL(`/hooks/${row.addressKey}`, publicUrl).href,
    mailAddress: mailDomain === null || row.hook.mail === null ? null : wayInAddress(row.mailKey, mailDomain),
    takesMail: mailDomain !== null,
    owner: row.owner,
    sentence: read(row),
    calls,
  };
}
