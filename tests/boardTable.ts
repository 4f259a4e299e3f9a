import type { BoardPermission } from '../src/core/rights/decide.ts';
import type { Purpose } from '../src/core/boards/switches.ts';

/** Who asks: a coordinator, the owner, a moderator, an editor and a member who belong, and somebody who does not. */
export const ROLES_ON_BOARD = {
  c: 'coordinator',
  o: 'owner',
  m: 'moderator',
  e: 'editor',
  p: 'member',
  x: 'outsider',
} as const;
export type RoleOnBoard = keyof typeof ROLES_ON_BOARD;

/**
 * What each may do on a board of each kind: their letters, in capitals where it is held for a moderator. Whoever is not
 * named is denied. Of a board that is for everybody nobody is outside.
 */
export const BOARD_TABLE: Record<Purpose | 'archived', Partial<Record<BoardPermission, string>>> = {
  'to read': {
    post: 'com',
    pin: 'com',
    'mention everybody': 'com',
    moderate: 'com',
    'change settings': 'com',
    automate: 'comep',
  },
  news: {
    post: 'com',
    reply: 'comep',
    react: 'comep',
    pin: 'com',
    'mention everybody': 'com',
    moderate: 'com',
    'change settings': 'com',
    automate: 'comep',
  },
  talk: {
    post: 'comep',
    reply: 'comep',
    react: 'comep',
    pin: 'com',
    'mention everybody': 'com',
    moderate: 'com',
    'change settings': 'com',
    automate: 'comep',
  },
  held: {
    post: 'comEP',
    reply: 'comep',
    react: 'comep',
    pin: 'com',
    'mention everybody': 'com',
    moderate: 'com',
    'change settings': 'com',
  },
  everybody: {
    post: 'comepx',
    reply: 'comepx',
    react: 'comepx',
    pin: 'com',
    'mention everybody': 'com',
    moderate: 'com',
    'change settings': 'com',
  },
  archived: { 'change settings': 'com' },
};

export const PERMISSIONS: BoardPermission[] = [
  'post',
  'reply',
  'react',
  'pin',
  'mention everybody',
  'moderate',
  'change settings',
  'automate',
  'bring in',
];

/** What the table says of one who asks. */
export function expectedOutcome(
  kind: keyof typeof BOARD_TABLE,
  permission: BoardPermission,
  role: RoleOnBoard,
): 'allowed' | 'held' | 'denied' {
  const who = BOARD_TABLE[kind][permission] ?? '';
  return who.includes(role) ? 'allowed' : who.includes(role.toUpperCase()) ? 'held' : 'denied';
}
