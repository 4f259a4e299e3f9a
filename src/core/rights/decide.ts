import type { Role } from '../audience/expression.ts';
import type { Audience } from '../audience/expression.ts';
import type { Switches } from '../boards/switchesSchema.ts';
import { list } from '../words.ts';

/**
 * Who acts: their role, the boards they moderate, and the groups an editor may reach. A guest from outside sees the boards and
 * groups chosen for them, and nothing that is everybody's.
 */
export interface Actor {
  id: number;
  role: Role;
  guest?: boolean;
  moderates: ReadonlySet<number>;
  mayReach: ReadonlySet<number>;
}

export interface BoardRules extends Switches {
  id: number;
  name: string;
  /** Whether the actor belongs to the board's group, or the board is everybody's. */
  belongs: boolean;
  moderatorNames: string[];
  ownerId: number | null;
  archived: boolean;
}

/** What may be done: `held` is done, but waits for somebody else. The reason is a sentence addressed to the actor. */
export type Decision =
  { outcome: 'allowed' } | { outcome: 'held'; reason: string } | { outcome: 'denied'; reason: string };

/** What can be done on a board, besides seeing it. */
export type BoardPermission =
  | 'post'
  | 'reply'
  | 'react'
  | 'pin'
  | 'mention everybody'
  | 'moderate'
  | 'change settings'
  | 'automate'
  | 'bring in';

export type Action =
  | { kind: 'see the desk' }
  | { kind: 'see the shelf' }
  | { kind: 'join groups' }
  | { kind: 'see board'; board: BoardRules }
  | { kind: 'on board'; permission: BoardPermission; board: BoardRules }
  | { kind: 'change own'; authorId: number; board: BoardRules }
  /**
   * `handedOn`: it waits for somebody's look; `involved`: they wrote in it, commented on it, looked at it for clearance, or are
   * called in a comment.
   */
  | {
      kind: 'open draft';
      authorId: number;
      handedOn: boolean;
      involved: boolean;
      audience: Audience | null;
      boards: BoardRules[];
    }
  | { kind: 'discard draft'; authorId: number }
  | { kind: 'clear draft'; writers: readonly number[]; audience: Audience | null; boards: BoardRules[] }
  | { kind: 'look after the organisation' }
  | { kind: 'see send'; authorId: number }
  | {
      kind: 'address';
      audience: Audience | null;
      boards: BoardRules[];
      /** Outside places it travels to. */
      outside?: readonly { name: string; editors: boolean }[];
      recurs?: boolean;
    }
  | { kind: 'look after people' };

const ALLOWED: Decision = { outcome: 'allowed' };
const denied = (reason: string): Decision => ({ outcome: 'denied', reason });
const NOT_THEIRS = denied('There is no such board, or it is not yours to see.');

/**
 * Whether everybody an audience may hold is in the reach of an editor: of any of several, each part; of all at once,
 * one part is enough, since the others only narrow it. What only leaves people out needs no right to reach them.
 */
function within(audience: Audience, mayReach: ReadonlySet<number>): boolean {
  switch (audience.kind) {
    case 'group':
      return mayReach.has(audience.id);
    case 'any':
      return audience.of.every((part) => within(part, mayReach));
    case 'all':
      return audience.of.some((part) => within(part, mayReach));
    case 'except':
      return within(audience.from, mayReach);
    default:
      return false;
  }
}

/** Whether an audience begins with everyone, whoever is then left out of it. */
export function isToEveryone(audience: Audience): boolean {
  switch (audience.kind) {
    case 'everyone':
      return true;
    case 'any':
      return audience.of.some(isToEveryone);
    case 'all':
      return audience.of.every(isToEveryone);
    case 'except':
      return isToEveryone(audience.from);
    default:
      return false;
  }
}

/**
 * May they? The one place that decides, for endpoints to enforce and screens to show in the same words. The
 * reason is a sentence addressed to the actor.
 */
export function decide(actor: Actor, action: Action): Decision {
  const coordinator = actor.role === 'coordinator';
  switch (action.kind) {
    case 'see the desk':
      return coordinator || actor.role === 'editor'
        ? ALLOWED
        : denied('The desk is for coordinators and editors.');
    case 'see the shelf':
      return actor.guest ? denied('The shelf is for those of the organisation, not for guests.') : ALLOWED;
    case 'join groups':
      return actor.guest ? denied('The groups of guests are chosen for them.') : ALLOWED;
    case 'look after people':
      return coordinator ? ALLOWED : denied('Only a coordinator adds people or takes them out.');
    case 'see board':
      return action.board.belongs || moderates(actor, action.board) ? ALLOWED : NOT_THEIRS;
    case 'on board':
      return onBoard(actor, action.permission, action.board);
    case 'change own':
      if (!action.board.belongs && !moderates(actor, action.board)) return NOT_THEIRS;
      if (action.authorId !== actor.id) return denied('Only who wrote this changes it or takes it back.');
      return action.board.archived ? archived(action.board) : ALLOWED;
    case 'look after the organisation':
      return coordinator ? ALLOWED : denied('Only a coordinator changes this.');
    case 'clear draft':
      if (actor.role === 'member') return denied('Clearing is for coordinators and editors.');
      if (action.writers.includes(actor.id))
        return denied('Nobody clears what they wrote in themselves. Somebody else has to look at it.');
      if (actor.role === 'editor' && action.audience === null && action.boards.length === 0)
        return denied('It goes to nobody yet. Clearing is for those who may send it themselves.');
      return address(actor, action.audience, action.boards, [], false);
    case 'open draft':
      if (actor.role === 'editor' && action.involved) return ALLOWED;
      // Handed on to whoever may send it themselves; what is for nobody yet, nobody may.
      if (
        action.handedOn &&
        actor.role === 'editor' &&
        (action.audience !== null || action.boards.length > 0) &&
        address(actor, action.audience, action.boards, [], false).outcome === 'allowed'
      )
        return ALLOWED;
      return ownOnly(actor, action.authorId);
    case 'discard draft':
      return ownOnly(actor, action.authorId);
    case 'see send':
      return ownOnly(actor, action.authorId);
    case 'address':
      return address(actor, action.audience, action.boards, action.outside ?? [], action.recurs ?? false);
  }
}

function ownOnly(actor: Actor, authorId: number): Decision {
  if (actor.role === 'coordinator' || (actor.role === 'editor' && actor.id === authorId)) return ALLOWED;
  return denied('Only its author and the coordinators can open it.');
}

/** Whether somebody moderates a board: coordinators do everywhere, owners always on their own. */
export const moderates = (actor: Actor, board: Pick<BoardRules, 'id' | 'ownerId'>): boolean =>
  actor.role === 'coordinator' || board.ownerId === actor.id || actor.moderates.has(board.id);

const archived = (board: BoardRules): Decision =>
  denied(`${board.name} is archived: it can be read, and nothing is added to it.`);

function onBoard(actor: Actor, permission: BoardPermission, board: BoardRules): Decision {
  const moderator = moderates(actor, board);
  if (!board.belongs && !moderator) return NOT_THEIRS;
  const who = board.moderatorNames.length > 0 ? `: ${list(board.moderatorNames, 'and')}` : '';
  const only = (does: string): Decision => denied(`Only those who moderate ${board.name} ${does}${who}.`);
  // Settings can be changed while a board is archived: that is how it is brought back.
  if (permission === 'change settings') return moderator ? ALLOWED : only('change its settings');
  if (board.archived) return archived(board);
  switch (permission) {
    case 'post':
      if (moderator || board.posting === 'members') return ALLOWED;
      if (board.posting === 'held')
        return {
          outcome: 'held',
          reason: `What you write here waits until somebody who moderates ${board.name} has looked at it${who}.`,
        };
      return board.moderatorNames.length > 0
        ? denied(`Only those who moderate ${board.name} post here${who}.`)
        : denied(`Only coordinators post on ${board.name}.`);
    case 'reply':
      if (moderator && board.replying !== 'nobody') return ALLOWED;
      if (board.replying === 'nobody') return denied(`Posts on ${board.name} take no replies.`);
      return board.replying === 'members' ? ALLOWED : only('reply');
    case 'react':
      return board.reacting === 'members' ? ALLOWED : denied(`Posts on ${board.name} take no reactions.`);
    case 'pin':
      return moderator || board.pinning === 'members' ? ALLOWED : only('pin and unpin');
    case 'mention everybody':
      return moderator || board.mentioning === 'members' ? ALLOWED : only('call on everybody here at once');
    case 'moderate':
      return moderator ? ALLOWED : only('decide what stands here');
    case 'automate':
      return board.automations ? ALLOWED : denied(`${board.name} takes nothing that recurs by itself.`);
    case 'bring in':
      return board.gateways ? ALLOWED : denied(`${board.name} takes nothing that comes in from outside.`);
  }
}

function address(
  actor: Actor,
  audience: Audience | null,
  boards: BoardRules[],
  outside: readonly { name: string; editors: boolean }[],
  recurs: boolean,
): Decision {
  if (actor.role === 'member') return denied('Sending is for coordinators and editors.');
  const closed = actor.role === 'coordinator' ? undefined : outside.find((place) => !place.editors);
  if (closed) return denied(`Only coordinators send to ${closed.name}. Take it out, or ask one.`);
  for (const board of boards) {
    const post = onBoard(actor, 'post', board);
    if (post.outcome === 'denied') return post;
    if (post.outcome === 'held')
      return denied(
        `Posts on ${board.name} wait until a moderator has looked. Write there by hand, or take the board out.`,
      );
    const automate = recurs ? onBoard(actor, 'automate', board) : ALLOWED;
    if (automate.outcome === 'denied') return automate;
  }
  if (actor.role === 'coordinator' || !audience) return ALLOWED;
  if (isToEveryone(audience)) return denied('Only a coordinator sends to everyone. Choose groups instead.');
  return within(audience, actor.mayReach)
    ? ALLOWED
    : denied('You may send only to the groups you look after. Take the others out, or ask a coordinator.');
}
