import type { Role } from '../audience/expression.ts';
import { groupsNamedIn, type Audience } from '../audience/expression.ts';

/** Who acts: their role, the boards they moderate, and the groups an editor may reach. */
export interface Actor {
  id: number;
  role: Role;
  moderates: ReadonlySet<number>;
  mayReach: ReadonlySet<number>;
}

export interface BoardRules {
  id: number;
  name: string;
  posting: 'moderators' | 'members';
  /** Whether the actor belongs to the board's group, or the board is everybody's. */
  belongs: boolean;
  moderatorNames: string[];
}

export type Decision = { outcome: 'allowed' } | { outcome: 'denied'; reason: string };

export type Action =
  | { kind: 'see the desk' }
  | { kind: 'see board'; board: BoardRules }
  | { kind: 'post on board'; board: BoardRules }
  | { kind: 'pin on board'; board: BoardRules }
  | { kind: 'open draft'; authorId: number; handedOn: boolean; audience: Audience | null }
  | { kind: 'clear draft'; writers: readonly number[]; audience: Audience | null }
  | { kind: 'look after the house' }
  | { kind: 'see send'; authorId: number }
  | { kind: 'address'; audience: Audience | null; boards: BoardRules[] }
  | { kind: 'look after people' };

const ALLOWED: Decision = { outcome: 'allowed' };
const denied = (reason: string): Decision => ({ outcome: 'denied', reason });

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

/** The groups whose people are put in, not left out. */
export function groupsAddressed(audience: Audience): number[] {
  if (audience.kind === 'except') return groupsAddressed(audience.from);
  return groupsNamedIn(audience);
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
    case 'look after people':
      return coordinator ? ALLOWED : denied('Only a coordinator adds people or takes them out.');
    case 'see board':
      return coordinator || action.board.belongs || actor.moderates.has(action.board.id)
        ? ALLOWED
        : denied('There is no such board, or it is not yours to see.');
    case 'post on board':
      return postOnBoard(actor, action.board);
    case 'pin on board':
      return coordinator || actor.moderates.has(action.board.id)
        ? ALLOWED
        : denied('Only those who moderate this board pin and unpin.');
    case 'look after the house':
      return coordinator ? ALLOWED : denied('Only a coordinator changes this.');
    case 'clear draft':
      if (actor.role === 'member') return denied('Clearing is for coordinators and editors.');
      if (action.writers.includes(actor.id))
        return denied('Nobody clears what they wrote in themselves. Somebody else has to look at it.');
      return address(actor, action.audience, []);
    case 'open draft':
      if (
        action.handedOn &&
        actor.role === 'editor' &&
        address(actor, action.audience, []).outcome === 'allowed'
      )
        return ALLOWED;
      return ownOnly(actor, action.authorId);
    case 'see send':
      return ownOnly(actor, action.authorId);
    case 'address':
      return address(actor, action.audience, action.boards);
  }
}

function ownOnly(actor: Actor, authorId: number): Decision {
  if (actor.role === 'coordinator' || (actor.role === 'editor' && actor.id === authorId)) return ALLOWED;
  return denied('Only its author and the coordinators can open it.');
}

function postOnBoard(actor: Actor, board: BoardRules): Decision {
  if (actor.role === 'coordinator' || actor.moderates.has(board.id)) return ALLOWED;
  if (!board.belongs) return denied('There is no such board, or it is not yours to see.');
  if (board.posting === 'members') return ALLOWED;
  return denied(
    board.moderatorNames.length > 0
      ? `Only those who moderate ${board.name} post here: ${board.moderatorNames.join(', ')}.`
      : `Only coordinators post on ${board.name}.`,
  );
}

function address(actor: Actor, audience: Audience | null, boards: BoardRules[]): Decision {
  if (actor.role === 'member') return denied('Sending is for coordinators and editors.');
  for (const board of boards) {
    const post = postOnBoard(actor, board);
    if (post.outcome === 'denied') return post;
  }
  if (actor.role === 'coordinator' || !audience) return ALLOWED;
  if (isToEveryone(audience)) return denied('Only a coordinator sends to everyone. Choose groups instead.');
  return within(audience, actor.mayReach)
    ? ALLOWED
    : denied('You may send only to the groups you look after. Take the others out, or ask a coordinator.');
}
