import { z } from 'zod';
import {
  hookOutSchema,
  hookOutSentence,
  type HookOut,
  type HookOutLine,
  type HookOutPage,
} from '../../core/gateways/hookOut.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { boardsSeenBy } from '../boards/service.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceContext } from '../groups/directory.ts';
import { notFound, Problem } from '../problem.ts';
import {
  allHooksOut,
  deleteHookOutById,
  handOverAgain,
  handoverFigures,
  hookOutById,
  insertHandovers,
  insertHookOut,
  lastHandovers,
  saveHookOut,
  setHookOutSecret,
  setHookOutState,
  tryWaitingNow,
  type HookOutRow,
} from './outStore.ts';
import { templateProblem } from '../../core/gateways/placeTemplate.ts';
import { list } from '../../core/words.ts';
import { usesOfPlace } from './placeStore.ts';
import { placeBody } from './travelling.ts';
import { freshSecret } from './sealing.ts';

export const hookOutSavedSchema = z.intersection(hookOutSchema, z.object({ revision: z.int().positive() }));
export const againSchema = z.union([
  z.strictObject({ id: z.int().positive() }),
  z.strictObject({ sinceMs: z.int().min(0) }),
]);

const SHOWN = 50;
/** A secret that was renewed signs along for so long, so that a receiver can change over. */
const ROTATION_HOURS = 24;

function requireKeeping(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** A way out, for coordinators. @throws a 404 problem where there is none, or it is not theirs to see */
export async function requireHookOut(db: Database, actor: Actor, id: number): Promise<HookOutRow> {
  const row = await hookOutById(db, id);
  if (!row || decide(actor, { kind: 'look after the organisation' }).outcome === 'denied')
    throw notFound('way out');
  return row;
}

function requireTemplate(template: string): void {
  const wrong = templateProblem(template);
  if (wrong !== null) throw new Problem(422, wrong, { errors: [{ field: 'place.template', detail: wrong }] });
}

async function requireLimits(
  db: Database,
  actor: Actor,
  { boardId, groupId, place }: HookOut,
): Promise<void> {
  if (place) requireTemplate(place.template);
  if (groupId !== null && !(await audienceContext(db)).groups.has(groupId)) {
    const detail = 'There is no such group. Choose another.';
    throw new Problem(422, detail, { errors: [{ field: 'groupId', detail }] });
  }
  if (boardId === null || (await boardsSeenBy(db, actor)).some((board) => board.id === boardId)) return;
  const detail = 'There is no such board. Choose another.';
  throw new Problem(422, detail, { errors: [{ field: 'boardId', detail }] });
}

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a way out of this name already.', {
    errors: [{ field: 'name', detail: 'There is a way out of this name already. Choose another name.' }],
  });
};

async function noted(trx: Database, actor: Actor, action: string, id: number): Promise<void> {
  await record(trx, { actorId: actor.id, action, subject: 'way out', subjectId: id });
  await emit(trx, 'hook.changed', { hook: id, way: 'out' });
}

/** Makes a way out. Its secret is told this once. */
export async function addHookOut(
  db: Database,
  actor: Actor,
  hook: HookOut,
  sealWith: string,
): Promise<{ id: number; secret: string }> {
  requireKeeping(actor);
  await requireLimits(db, actor, hook);
  const { secret, sealed } = freshSecret(sealWith);
  return transact(db, async (trx) => {
    const id = await insertHookOut(trx, { hook, sealed, ownerId: actor.id });
    await noted(trx, actor, 'make', id);
    return { id, secret };
  }).catch(nameTaken);
}

/** Changes a way out; what waits for it is tried at once. */
export async function alterHookOut(
  db: Database,
  actor: Actor,
  id: number,
  { revision, ...hook }: z.infer<typeof hookOutSavedSchema>,
): Promise<void> {
  const before = await requireHookOut(db, actor, id);
  if ((before.hook.place === null) !== (hook.place === null)) {
    const detail =
      'What it is for cannot be changed: what waits for it is of one kind. Make another way out.';
    throw new Problem(422, detail, { errors: [{ field: 'place', detail }] });
  }
  await requireLimits(db, actor, hook);
  await transact(db, async (trx) => {
    if (!(await saveHookOut(trx, id, revision, hook)))
      throw new Problem(409, 'Somebody changed this way out a moment ago. Read it again.', {
        more: { revision: (await hookOutById(trx, id))?.revision ?? revision },
      });
    await tryWaitingNow(trx, id);
    await noted(trx, actor, 'change', id);
  }).catch(nameTaken);
}

export async function switchHookOut(db: Database, actor: Actor, id: number, on: boolean): Promise<void> {
  await requireHookOut(db, actor, id);
  await transact(db, async (trx) => {
    if (!(await setHookOutState(trx, id, on ? 'on' : 'off', null))) return;
    if (on) await tryWaitingNow(trx, id);
    await noted(trx, actor, on ? 'switch on' : 'switch off', id);
  });
}

/** Gives a way out a new secret, which is told this once; for a day the one before signs along. */
export async function renewHookOut(
  db: Database,
  actor: Actor,
  id: number,
  sealWith: string,
): Promise<{ secret: string }> {
  await requireHookOut(db, actor, id);
  const { secret, sealed } = freshSecret(sealWith);
  await transact(db, async (trx) => {
    await setHookOutSecret(trx, id, sealed, ROTATION_HOURS);
    await noted(trx, actor, 'renew secret', id);
  });
  return { secret };
}

export async function deleteHookOut(db: Database, actor: Actor, id: number): Promise<void> {
  await requireHookOut(db, actor, id);
  const uses = await usesOfPlace(db, id, 3);
  if (uses.length > 0)
    throw new Problem(
      409,
      `${list(
        uses.map((name) => `“${name}”`),
        'and',
      )} ${uses.length === 1 ? 'goes' : 'go'} there. Change or take back ${uses.length === 1 ? 'it' : 'them'} first.`,
    );
  await transact(db, async (trx) => {
    await deleteHookOutById(trx, id);
    await noted(trx, actor, 'delete', id);
  });
}

/** Sends an event to try it: it says that it is one. */
export async function sendTrial(db: Database, actor: Actor, id: number): Promise<void> {
  const row = await requireHookOut(db, actor, id);
  const key = `trial.${crypto.randomUUID()}`;
  await transact(db, async (trx) => {
    await insertHandovers(trx, [
      {
        hookId: id,
        eventKey: key,
        kind: 'trial',
        subject: 'trial',
        body: JSON.stringify({
          specversion: '1.0',
          id: key,
          type: 'clear-bell.trial',
          subject: 'trial',
          time: new Date().toISOString(),
          datacontenttype: 'application/json',
          data: { words: `A trial of “${row.hook.name}”.`, path: '/' },
        }),
      },
    ]);
    await noted(trx, actor, 'try', id);
  });
}

/** A template filled in of nothing but a trial. @throws 422 with what is wrong with it */
export async function filledTemplate(
  db: Database,
  actor: Actor,
  template: string,
  publicUrl: string,
): Promise<{ body: string }> {
  requireKeeping(actor);
  requireTemplate(template);
  return { body: await placeBody(db, template, { occurrenceId: null, body: '' }, publicUrl) };
}

/** Hands events over once more: one, or all of a period until now. Gives how many. */
export async function sendAgain(
  db: Database,
  actor: Actor,
  id: number,
  which: z.infer<typeof againSchema>,
): Promise<{ events: number }> {
  await requireHookOut(db, actor, id);
  return transact(db, async (trx) => {
    const events = await handOverAgain(trx, id, which);
    if (events === 0) throw new Problem(409, 'Nothing of that has ended yet that could be sent again.');
    await noted(trx, actor, 'send again', id);
    return { events };
  });
}

const sentence = (
  hook: HookOut,
  boards: readonly { id: number; name: string }[],
  { groups }: AudienceContext,
): string =>
  hookOutSentence(hook, {
    board: hook.boardId === null ? null : boards.find((board) => board.id === hook.boardId)?.name,
    group: hook.groupId === null ? null : groups.get(hook.groupId)?.name,
  });

/** The ways out, by name, those in trouble first. */
export async function listHooksOut(db: Database, actor: Actor): Promise<HookOutLine[]> {
  requireKeeping(actor);
  const [all, figures, boards, now] = await Promise.all([
    allHooksOut(db),
    handoverFigures(db),
    boardsSeenBy(db, actor),
    audienceContext(db),
  ]);
  const lines = all.map((row): HookOutLine => {
    const of = figures.get(row.id);
    return {
      id: row.id,
      name: row.hook.name,
      state: row.state,
      whyPaused: row.whyPaused,
      sentence: sentence(row.hook, boards, now),
      owner: row.owner,
      delivered: of?.delivered ?? 0,
      failed: of?.failed ?? 0,
      waiting: of?.waiting ?? 0,
      lastMs: of?.lastMs ?? null,
      trouble: row.whyPaused ?? of?.trouble ?? null,
    };
  });
  return lines.sort((a, b) => Number(b.trouble !== null) - Number(a.trouble !== null));
}

/** A way out with its last events. */
export async function openHookOut(db: Database, actor: Actor, id: number): Promise<HookOutPage> {
  const row = await requireHookOut(db, actor, id);
  const [handovers, boards, now] = await Promise.all([
    lastHandovers(db, id, SHOWN),
    boardsSeenBy(db, actor),
    audienceContext(db),
  ]);
  return {
    id,
    hook: row.hook,
    state: row.state,
    whyPaused: row.whyPaused,
    revision: row.revision,
    owner: row.owner,
    sentence: sentence(row.hook, boards, now),
    beforeUntilMs: row.beforeUntilMs,
    handovers,
  };
}
