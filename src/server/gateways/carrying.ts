import { createHash } from 'node:crypto';
import type { Content } from '../../core/content/announcement.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { wallAt } from '../../core/timing/wallTime.ts';
import { callAutomations } from '../automations/acting.ts';
import { speak } from '../automations/speaking.ts';
import { requireOnBoard, visibleBoard, type BoardForReader } from '../boards/service.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { resolveCalls } from '../posts/calling.ts';
import { Problem } from '../problem.ts';
import { refusedLately, type HookInRow, type NewCall } from './inStore.ts';
import { noteWith } from './noting.ts';
import { putUpTogether } from './puttingUp.ts';

/** What sets a message apart, in one form: two of one id are one. */
export const keyOf = (hookId: number, messageId: string): string =>
  `hook.${hookId}.${createHash('sha256').update(messageId).digest('base64url')}`;

/** What a message became, and whether it had become that before. */
export interface Outcome {
  repeated?: boolean;
  state: 'up' | 'held' | 'on its way' | 'handed to automations';
  postId: number | null;
  occurrenceId: number | null;
  notFound: string[];
}

/** A message as its way in carries it out, however it came. */
export interface Message {
  /** Sets it apart: the same key twice is one message. */
  key: string;
  /** What goes up or out, and whom it called on and nobody is. */
  content: () => Promise<{ content: Content; notFound: string[] }>;
  /** The values automations use, by name. */
  values: () => Record<string, string>;
  /** The board it is for, where that is read already; a problem is why its owner may not see it. */
  board?: BoardForReader | Problem | undefined;
  /** The line of the log that is written in the transaction in which it goes up or out. */
  call?: (became: Pick<Outcome, 'postId' | 'occurrenceId'>) => NewCall;
}

/** Does with a message what its way in is for. */
export async function carryOut(db: Database, hook: HookInRow, owner: Actor, call: Message): Promise<Outcome> {
  const { target, held } = hook.hook;
  switch (target.kind) {
    case 'board': {
      if (call.board instanceof Problem) throw call.board;
      const board = call.board ?? (await visibleBoard(db, owner, target.boardId));
      requireOnBoard(owner, 'bring in', board);
      const may = requireOnBoard(owner, 'post', board);
      const { content, notFound } = await call.content();
      const resolved = {
        ...content,
        sections: await Promise.all(
          content.sections.map(async (section) => ({
            ...section,
            document: await resolveCalls(db, owner, board, section.document),
          })),
        ),
      };
      const post = await putUpTogether(db, hook, owner, {
        board,
        text: { content: resolved, key: call.key, held: held || may.held, hookId: hook.id },
        call: call.call,
      });
      return {
        repeated: post.known,
        state: post.state,
        postId: post.id,
        occurrenceId: null,
        notFound,
      };
    }
    case 'group': {
      const audience = { kind: 'group' as const, id: target.groupId };
      if (!(await audienceContext(db)).groups.has(target.groupId))
        throw new Problem(409, 'The group it is for is not there any more.');
      const decision = decide(owner, { kind: 'address', audience, boards: [], recurs: true });
      if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
      const { content, notFound } = await call.content();
      const dueMs = Math.round(await databaseNow(db));
      const occurrenceId = await transact(db, async (trx) => {
        const id = await speak(
          trx,
          owner.id,
          { hookId: hook.id, key: call.key },
          {
            audience,
            personId: null,
            boards: [],
            outside: [],
            mail: target.mail,
            timing: { kind: 'at', wall: wallAt(dueMs, 'UTC'), zone: 'UTC' },
            buckets: [{ zone: '', dueMs, hour: 'ordinary', pastHour: 'as planned' }],
            content,
          },
        );
        if (call.call) await noteWith(trx, hook, [call.call({ postId: null, occurrenceId: id })]);
        return id;
      });
      return { state: 'on its way', postId: null, occurrenceId, notFound };
    }
    case 'automations':
      await callAutomations(db, hook.id, call.key, call.values());
      return { state: 'handed to automations', postId: null, occurrenceId: null, notFound: [] };
  }
}

/** Calls without proof, and those past the limit, are noted once in ten seconds, so that they fill no log. */
export const isFlood = async (db: Database, hookId: number, status: number): Promise<boolean> =>
  (status === 401 || status === 429) && refusedLately(db, hookId, status, 10);

/** Why it was refused, as the log of a way in says it. */
export const reasonIn = (problem: Problem): string => {
  const [first] = problem.errors;
  return first && first.field !== '' ? `${first.field}: ${first.detail}` : problem.message;
};
