import { describe, expect, it } from 'vitest';
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
  posting: 'moderators',
  belongs: true,
  moderatorNames: ['Maud Fenwright'],
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
  ['post where moderators post', { kind: 'post on board', board: readOnly }, 'cm'],
  ['post where members post', { kind: 'post on board', board: open }, 'cemp'],
  ['post on a board of others', { kind: 'post on board', board: foreign }, 'cm'],
  ['pin', { kind: 'pin on board', board: open }, 'cm'],
  [
    'open a draft of somebody else',
    { kind: 'open draft', authorId: 2, handedOn: false, audience: group(3) },
    'c',
  ],
  [
    'open a draft of their own',
    { kind: 'open draft', authorId: 1, handedOn: false, audience: group(4) },
    'ce',
  ],
  [
    'open what was handed on, in reach',
    { kind: 'open draft', authorId: 2, handedOn: true, audience: group(3) },
    'ce',
  ],
  [
    'open what was handed on, beyond',
    { kind: 'open draft', authorId: 2, handedOn: true, audience: group(4) },
    'c',
  ],
  ['clear what somebody else wrote', { kind: 'clear draft', writers: [2], audience: group(3) }, 'ce'],
  ['clear what they wrote in', { kind: 'clear draft', writers: [2, 1], audience: group(3) }, ''],
  ['clear for a group beyond', { kind: 'clear draft', writers: [2], audience: group(4) }, 'c'],
  ['set the quiet hours of all', { kind: 'look after the house' }, 'c'],
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
    expect(decide(WHO.member, { kind: 'post on board', board: readOnly })).toEqual({
      outcome: 'denied',
      reason: 'Only those who moderate House rules post here: Maud Fenwright.',
    });
    const hidden = decide(WHO.member, { kind: 'see board', board: foreign });
    expect(hidden.outcome === 'denied' && hidden.reason).not.toContain('House rules');
  });
});
