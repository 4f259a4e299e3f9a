import { describe, expect, it } from 'vitest';
import { PRESETS, purposeOf, PURPOSES, rulesWords } from '../../src/core/boards/switches.ts';
import {
  BOARD_TABLE,
  PERMISSIONS,
  expectedOutcome,
  ROLES_ON_BOARD,
  type RoleOnBoard,
} from '../boardTable.ts';
import { reachesGroup } from '../../src/core/rights/clearance.ts';
import { decide, type Action, type Actor, type BoardRules } from '../../src/core/rights/decide.ts';

const actor = (role: Actor['role'], part: Partial<Actor> = {}): Actor => ({
  id: 1,
  role,
  moderates: new Set(),
  mayReach: new Set(),
  ...part,
});
const board = (part: Partial<BoardRules> = {}): BoardRules => ({
  id: 5,
  name: 'House rules',
  ...PRESETS['to read'].switches,
  belongs: true,
  moderatorNames: ['Maud Fenwright'],
  ownerId: null,
  archived: false,
  ...part,
});
const WHO = {
  coordinator: actor('coordinator'),
  editor: actor('editor', { mayReach: new Set([3]) }),
  moderator: actor('member', { moderates: new Set([5]) }),
  member: actor('member'),
};
const readOnly = board();
const open = board({ posting: 'members' });
const foreign = board({ posting: 'members', belongs: false });
const group = (id: number) => ({ kind: 'group' as const, id });

/** Who may: c coordinator, e editor, m moderator, p member. */
const TABLE: [string, Action, string][] = [
  ['see the desk', { kind: 'see the desk' }, 'ce'],
  ['look after people', { kind: 'look after people' }, 'c'],
  ['see a board of their own', { kind: 'see board', board: readOnly }, 'cemp'],
  ['see a board of others', { kind: 'see board', board: foreign }, 'cm'],
  ['change their own post', { kind: 'change own', authorId: 1, board: open }, 'cemp'],
  ['change the post of somebody else', { kind: 'change own', authorId: 2, board: open }, ''],
  ['change their own on a board of others', { kind: 'change own', authorId: 1, board: foreign }, 'cm'],
  [
    'change their own on an archived board',
    { kind: 'change own', authorId: 1, board: board({ archived: true }) },
    '',
  ],
  [
    'open a draft of somebody else',
    { kind: 'open draft', authorId: 2, handedOn: false, involved: false, audience: group(3), boards: [] },
    'c',
  ],
  [
    'open a draft of their own',
    { kind: 'open draft', authorId: 1, handedOn: false, involved: false, audience: group(4), boards: [] },
    'ce',
  ],
  [
    'open what was handed on, in reach',
    { kind: 'open draft', authorId: 2, handedOn: true, involved: false, audience: group(3), boards: [] },
    'ce',
  ],
  [
    'open what was handed on, beyond',
    { kind: 'open draft', authorId: 2, handedOn: true, involved: false, audience: group(4), boards: [] },
    'c',
  ],
  [
    'clear what somebody else wrote',
    { kind: 'clear draft', writers: [2], audience: group(3), boards: [] },
    'ce',
  ],
  [
    'open what was handed on and is for nobody yet',
    { kind: 'open draft', authorId: 2, handedOn: true, involved: false, audience: null, boards: [] },
    'c',
  ],
  [
    'open what they are called on in, beyond',
    { kind: 'open draft', authorId: 2, handedOn: false, involved: true, audience: group(4), boards: [] },
    'ce',
  ],
  ['throw away what somebody else wrote', { kind: 'discard draft', authorId: 2 }, 'c'],
  ['clear what is for nobody yet', { kind: 'clear draft', writers: [2], audience: null, boards: [] }, 'c'],
  ['clear what they wrote in', { kind: 'clear draft', writers: [2, 1], audience: group(3), boards: [] }, ''],
  ['clear for a group beyond', { kind: 'clear draft', writers: [2], audience: group(4), boards: [] }, 'c'],
  ['set the quiet hours of all', { kind: 'look after the organisation' }, 'c'],
  [
    'narrow a group in reach by others',
    {
      kind: 'address',
      audience: { kind: 'all', of: [group(3), { kind: 'role', role: 'member' }] },
      boards: [],
    },
    'ce',
  ],
  [
    'everyone, narrowed to a group beyond',
    { kind: 'address', audience: { kind: 'all', of: [{ kind: 'everyone' }, group(4)] }, boards: [] },
    'c',
  ],
  ['see a send of somebody else', { kind: 'see send', authorId: 2 }, 'c'],
  ['send to everyone', { kind: 'address', audience: { kind: 'everyone' }, boards: [] }, 'c'],
  [
    'send to a group in reach',
    { kind: 'address', audience: { kind: 'any', of: [group(3)] }, boards: [] },
    'ce',
  ],
  [
    'send to a group beyond',
    { kind: 'address', audience: { kind: 'any', of: [group(3), group(4)] }, boards: [] },
    'c',
  ],
  [
    'leave out a group beyond',
    { kind: 'address', audience: { kind: 'except', from: group(3), minus: group(4) }, boards: [] },
    'ce',
  ],
  [
    'hide everyone inside an except',
    {
      kind: 'address',
      audience: { kind: 'except', from: { kind: 'everyone' }, minus: group(3) },
      boards: [],
    },
    'c',
  ],
  ['send to a station by rule', { kind: 'address', audience: { kind: 'station', id: 3 }, boards: [] }, 'c'],
  ['send to a read-only board', { kind: 'address', audience: null, boards: [readOnly] }, 'c'],
  ['send to a held board', { kind: 'address', audience: null, boards: [board(PRESETS.held.switches)] }, 'c'],
  [
    'send again and again to a board that takes nothing of that kind',
    {
      kind: 'address',
      audience: null,
      boards: [board({ ...PRESETS.talk.switches, automations: false })],
      recurs: true,
    },
    '',
  ],
];

describe('who may', () => {
  it.each(TABLE)('%s', (_, action, allowed) => {
    const may = (who: Actor): boolean => decide(who, action).outcome === 'allowed';
    const found = [
      may(WHO.coordinator) ? 'c' : '',
      may(WHO.editor) ? 'e' : '',
      may(WHO.moderator) ? 'm' : '',
      may(WHO.member) ? 'p' : '',
    ].join('');
    expect(found).toBe(allowed);
  });

  it('says why not, in words for the one who asks', () => {
    expect(decide(WHO.member, { kind: 'on board', permission: 'post', board: readOnly })).toEqual({
      outcome: 'denied',
      reason: 'Only those who moderate House rules post here: Maud Fenwright.',
    });
    const hidden = decide(WHO.member, { kind: 'see board', board: foreign });
    expect(hidden.outcome === 'denied' && hidden.reason).not.toContain('House rules');
  });
});

describe('who may do what on a board', () => {
  const asks: Record<RoleOnBoard, Actor> = {
    c: actor('coordinator', { id: 10 }),
    o: actor('member', { id: 11 }),
    m: actor('member', { id: 12, moderates: new Set([5]) }),
    e: actor('editor', { id: 13 }),
    p: actor('member', { id: 14 }),
    x: actor('member', { id: 15 }),
  };
  it.each(Object.keys(BOARD_TABLE) as (keyof typeof BOARD_TABLE)[])('%s', (kind) => {
    const rules = (role: RoleOnBoard): BoardRules =>
      board({
        ...PRESETS[kind === 'archived' ? 'talk' : kind].switches,
        ownerId: 11,
        archived: kind === 'archived',
        belongs: kind === 'everybody' || !['c', 'x'].includes(role),
      });
    for (const role of Object.keys(ROLES_ON_BOARD) as RoleOnBoard[])
      for (const permission of PERMISSIONS) {
        const decision = decide(asks[role], { kind: 'on board', permission, board: rules(role) });
        expect(decision.outcome, `${ROLES_ON_BOARD[role]}: ${permission}`).toBe(
          expectedOutcome(kind, permission, role),
        );
        if (decision.outcome === 'allowed') continue;
        // To somebody who may not see the board not even its name leaks.
        const hidden = role === 'x' && kind !== 'everybody';
        expect(decision.reason.includes('House rules')).toBe(!hidden);
      }
  });

  it('every purpose is known again by its switches, and says in prose what they say', () => {
    for (const purpose of PURPOSES) expect(purposeOf(PRESETS[purpose].switches)).toBe(purpose);
    expect(purposeOf({ ...PRESETS.talk.switches, pinning: 'members' })).toBeUndefined();
    expect(rulesWords(PRESETS['to read'].switches, ['Maud', 'Jago'])).toBe(
      'Only those who moderate it post: Maud and Jago. Posts take no replies and no reactions.',
    );
    expect(rulesWords(PRESETS.held.switches, ['Jago'])).toBe(
      'Everyone here may write; Jago looks at each post before it goes up. Everyone replies and reacts.',
    );
  });
});

describe('a group that asks for clearance', () => {
  const reached = (part: Partial<Parameters<typeof reachesGroup>[0]>): boolean =>
    reachesGroup({ members: 10, among: 10, reached: 10, everybody: 100, ...part });

  it('is reached by half of its people or more, however they were chosen', () => {
    expect(reached({})).toBe(true);
    expect(reached({ among: 5, reached: 40 })).toBe(true);
    expect(reached({ among: 4 })).toBe(false);
    expect(reached({ members: 1, among: 1, reached: 1 })).toBe(true);
    // Nobody in it, nobody reached.
    expect(reached({ members: 0, among: 0 })).toBe(false);
  });

  it('is not reached by what goes to nearly everybody', () => {
    expect(reached({ reached: 79 })).toBe(true);
    expect(reached({ reached: 80 })).toBe(false);
    expect(reached({ reached: 100 })).toBe(false);
  });
});
