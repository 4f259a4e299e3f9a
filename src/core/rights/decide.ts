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
  | { kind: 'open draft'; authorId: number }
  | { kind: 'see send'; authorId: number }
  | { kind: 'address'; audience: Audience | null; boards: BoardRules[] }
  | { kind: 'look after people' };

const ALLOWED: Decision = { outcome: 'allowed' };
const denied = (reason: string): Decision => ({ outcome: 'denied', reason });

/** The parts of an audience that put somebody in; what only leaves people out needs no right to reach them. */
function addressed(audience: Audience): Audience[] {
  switch (audience.kind) {
    case 'any':
      return audience.of.flatMap(addressed);
    case 'except':
      return addressed(audience.from);
    default:
      return [audience];
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
    case 'open draft':
    case 'see send':
      if (coordinator) return ALLOWED;
      if (actor.role === 'editor' && actor.id === action.authorId) return ALLOWED;
      return denied('Only its author and the coordinators can open it.');
    case 'address':
      return address(actor, action.audience, action.boards);
  }
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
  for (const part of addressed(audience)) {
    if (part.kind === 'everyone')
      return denied('Only a coordinator sends to everyone. Choose groups instead.');
    const beyond = groupsNamedIn(part).filter((id) => !actor.mayReach.has(id));
    if (part.kind !== 'group' || beyond.length > 0)
      return denied(
        'You may send only to the groups you look after. Take the others out, or ask a coordinator.',
      );
  }
  return ALLOWED;
}
