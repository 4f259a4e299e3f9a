import { hookInSchema, type CallOutcome, type HookCall, type HookIn } from '../../core/gateways/hookIn.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { insertMany } from '../database/insertMany.ts';
import { ms } from '../database/instant.ts';
import { Together } from '../database/together.ts';

export interface HookInRow {
  id: number;
  hook: HookIn;
  addressKey: string;
  /** The part of its mail address that cannot be guessed. */
  mailKey: string;
  sealed: Buffer;
  on: boolean;
  revision: number;
  ownerId: number;
  owner: string;
}

type Stored = Omit<HookInRow, 'hook' | 'on'> & { hook: string; isOn: number };

const HOOK = `SELECT h.id, h.hook, h.address_key AS addressKey, h.mail_key AS mailKey, h.secret AS sealed, h.is_on AS isOn, h.revision, h.owner_id AS ownerId,
    p.name AS owner FROM hooks_in h JOIN people p ON p.id = h.owner_id`;
const read = ({ hook, isOn, ...row }: Stored): HookInRow => ({
  ...row,
  on: isOn === 1,
  hook: hookInSchema.parse(JSON.parse(hook)),
});

/** All ways in, by name. */
export const allHooksIn = async (db: Database): Promise<HookInRow[]> =>
  (await rows<Stored>(db, `${HOOK} ORDER BY h.name`)).map(read);

export async function hookInById(db: Database, id: number): Promise<HookInRow | undefined> {
  const [row] = await rows<Stored>(db, `${HOOK} WHERE h.id = ?`, [id]);
  return row && read(row);
}

export async function hookInByKey(db: Database, key: string): Promise<HookInRow | undefined> {
  const [row] = await rows<Stored>(db, `${HOOK} WHERE h.address_key = ?`, [key]);
  return row && read(row);
}

export async function hookInByMailKey(db: Database, key: string): Promise<HookInRow | undefined> {
  const [row] = await rows<Stored>(db, `${HOOK} WHERE h.mail_key = ?`, [key]);
  return row && read(row);
}

/** @throws the database's duplicate-key error where there is a way in of this name */
export async function insertHookIn(
  db: Database,
  made: { hook: HookIn; addressKey: string; mailKey: string; sealed: Buffer; ownerId: number },
): Promise<number> {
  const [id] = await db('hooks_in').insert({
    name: made.hook.name,
    address_key: made.addressKey,
    mail_key: made.mailKey,
    secret: made.sealed,
    hook: JSON.stringify(made.hook),
    owner_id: made.ownerId,
  });
  return id ?? 0;
}

/** Changes a way in over the revision its author saw; false where it is not that any more. */
export async function saveHookIn(
  db: Database,
  id: number,
  revision: number,
  hook: HookIn,
  ownerId: number,
): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE hooks_in SET name = ?, hook = ?, owner_id = ?, revision = revision + 1 WHERE id = ? AND revision = ?',
      [hook.name, JSON.stringify(hook), ownerId, id, revision],
    )) === 1
  );
}

export async function setHookInOn(db: Database, id: number, on: boolean): Promise<void> {
  await change(db, 'UPDATE hooks_in SET is_on = ? WHERE id = ?', [on, id]);
}

/** Gives a way in another secret; the one before is taken no longer. */
export async function setHookInSecret(db: Database, id: number, sealed: Buffer): Promise<void> {
  await change(db, 'UPDATE hooks_in SET secret = ? WHERE id = ?', [sealed, id]);
}

export async function deleteHookInById(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM hooks_in WHERE id = ?', [id]);
}

export interface NewCall {
  messageId: string;
  outcome: CallOutcome;
  status: number;
  reason: string | null;
  postId: number | null;
  occurrenceId: number | null;
  body: string;
}

const MOST_BODY = 2000;

/** Notes calls; gives their ids. */
export const insertCalls = (db: Database, hookId: number, calls: readonly NewCall[]): Promise<number[]> =>
  insertMany(
    db,
    'hook_calls',
    calls.map((call) => ({
      hook_id: hookId,
      message_id: call.messageId.slice(0, 200),
      outcome: call.outcome,
      status: call.status,
      reason: call.reason === null ? null : call.reason.slice(0, 300),
      post_id: call.postId,
      occurrence_id: call.occurrenceId,
      body: call.body.slice(0, MOST_BODY),
    })),
  );

interface Message {
  hookId: number;
  messageId: string;
}
interface Became {
  postId: number | null;
  occurrenceId: number | null;
}

/** For each message the call by which it was taken before; nothing where it was not. */
async function takenBeforeAll(db: Database, messages: readonly Message[]): Promise<(Became | undefined)[]> {
  const found = await rows<Became & Message>(
    db,
    `SELECT hook_id AS hookId, message_id AS messageId, post_id AS postId, occurrence_id AS occurrenceId FROM hook_calls
     WHERE (hook_id, message_id) IN (${messages.map(() => '(?, ?)').join(', ')}) AND outcome = 'taken' ORDER BY id DESC`,
    messages.flatMap(({ hookId, messageId }) => [hookId, messageId]),
  );
  // The first of several stands last.
  const by = new Map(found.map(({ hookId, messageId, ...became }) => [`${hookId} ${messageId}`, became]));
  return messages.map(({ hookId, messageId }) => by.get(`${hookId} ${messageId}`));
}

const takenInDatabases = new WeakMap<Database, Together<Message, Became | undefined>>();

/**
 * The call by which a message was taken before; nothing where it was not. Those that come at once are looked for in one statement,
 * which begins after each of them came.
 */
export function takenBefore(db: Database, hookId: number, messageId: string): Promise<Became | undefined> {
  const together =
    takenInDatabases.get(db) ??
    new Together<Message, Became | undefined>((messages) => takenBeforeAll(db, messages), { most: 200 });
  takenInDatabases.set(db, together);
  return together.add({ hookId, messageId });
}

/** The last calls of a way in, the latest first. */
export async function lastCalls(db: Database, hookId: number, most: number): Promise<HookCall[]> {
  const found = await rows<Omit<HookCall, 'href'> & { postId: number | null; occurrenceId: number | null }>(
    db,
    `SELECT id, ${ms('at')} AS atMs, message_id AS messageId, outcome, status, reason, post_id AS postId, occurrence_id AS occurrenceId, body
     FROM hook_calls WHERE hook_id = ? ORDER BY id DESC LIMIT ?`,
    [hookId, most],
  );
  return found.map(({ postId, occurrenceId, ...call }) => ({
    ...call,
    href: postId !== null ? `/posts/${postId}` : occurrenceId !== null ? `/sends/${occurrenceId}` : null,
  }));
}

export interface CallFigures {
  taken: number;
  refused: number;
  lastMs: number | null;
  /** Why the last call was refused; null where it was not. */
  trouble: string | null;
}

/** What each way in took and refused in the last day, and its last call. */
export async function callFigures(db: Database): Promise<Map<number, CallFigures>> {
  const found = await rows<CallFigures & { id: number }>(
    db,
    `SELECT c.hook_id AS id, CAST(SUM(c.outcome = 'taken' AND c.at > NOW(3) - INTERVAL 1 DAY) AS SIGNED) AS taken,
       CAST(SUM(c.outcome = 'refused' AND c.at > NOW(3) - INTERVAL 1 DAY) AS SIGNED) AS refused, ${ms('MAX(c.at)')} AS lastMs,
       (SELECT l.reason FROM hook_calls l WHERE l.hook_id = c.hook_id ORDER BY l.id DESC LIMIT 1) AS trouble
     FROM hook_calls c GROUP BY c.hook_id`,
  );
  return new Map(found.map(({ id, ...figures }) => [id, figures]));
}

/** What was taken in a period, the latest first, as it came and was kept. */
export const callBodies = (
  db: Database,
  hookId: number,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<{ id: number; atMs: number; body: string }[]> =>
  rows(
    db,
    `SELECT id, ${ms('at')} AS atMs, body FROM hook_calls
     WHERE hook_id = ? AND outcome = 'taken' AND at >= ? AND at <= ? ORDER BY id DESC LIMIT ?`,
    [hookId, new Date(fromMs), new Date(toMs + 1_000), most],
  );

/** Whether a way in refused a call for the same reason in the last seconds: such are noted once, however many come. */
export async function refusedLately(
  db: Database,
  hookId: number,
  status: number,
  seconds: number,
): Promise<boolean> {
  const found = await rows(
    db,
    `SELECT 1 FROM hook_calls WHERE hook_id = ? AND outcome = 'refused' AND status = ? AND at > NOW(3) - INTERVAL ? SECOND LIMIT 1`,
    [hookId, status, seconds],
  );
  return found.length > 0;
}
