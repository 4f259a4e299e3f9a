import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  audienceOf,
  formOf,
  groupsForm,
  type AudienceForm,
  type Term,
} from '../../src/core/audience/form.ts';
import { audienceSchema, type Audience } from '../../src/core/audience/expression.ts';
import { circleOf, groupsThrough, isReadable, type Group } from '../../src/core/audience/groups.ts';
import { includes, joinedSince, type PersonFacts } from '../../src/core/audience/includes.ts';
import { audienceWords, reasonsIn, whyWords } from '../../src/core/audience/words.ts';

const groups = new Map<number, Group>([
  [
    1,
    {
      id: 1,
      name: 'Sant Elm',
      needsClearance: false,
      ownerIds: [],
      archived: false,
      kind: 'live',
      rule: { kind: 'station', id: 7 },
    },
  ],
  [2, { id: 2, name: 'Trustees', needsClearance: true, ownerIds: [], archived: false, kind: 'fixed' }],
  [
    3,
    {
      id: 3,
      name: 'On leave',
      needsClearance: false,
      ownerIds: [],
      archived: false,
      kind: 'live',
      rule: { kind: 'standing', standing: 'on leave' },
    },
  ],
  [
    4,
    {
      id: 4,
      name: 'New',
      needsClearance: false,
      ownerIds: [],
      archived: false,
      kind: 'live',
      rule: { kind: 'joined within', days: 60 },
    },
  ],
]);
const now = { groups, today: '2026-03-01' };
const names = {
  group: (id: number) => groups.get(id)?.name,
  station: () => 'Sant Elm',
  person: () => 'Una Marsh',
  occurrence: () => 'Fire drill',
};
const person = (part: Partial<PersonFacts> = {}): PersonFacts => ({
  id: 9,
  guest: false,
  stationId: 7,
  role: 'member',
  standing: 'active',
  occupation: 'driver',
  joinedOn: '2020-05-05',
  fixedGroupIds: new Set([2]),
  attributes: new Map([['licence', 'lorry']]),
  asked: new Map([
    [70, true],
    [71, false],
  ]),
  reached: new Set(),
  read: new Set([70]),
  signedUp: new Set([71]),
  said: new Map([[5, 'waiting' as const]]),
  ...part,
});
const group = (id: number): Audience => ({ kind: 'group', id });

describe('who is in an audience', () => {
  it('follows live rules and hand-picked lists', () => {
    expect(includes(group(1), person(), now)).toBe(true);
    expect(includes(group(1), person({ stationId: null }), now)).toBe(false);
    expect(includes(group(2), person(), now)).toBe(true);
    expect(includes(group(2), person({ fixedGroupIds: new Set() }), now)).toBe(false);
  });

  it('leaves out the excepted, those who have left, and members of a group that is gone', () => {
    const whom: Audience = { kind: 'except', from: { kind: 'everyone' }, minus: group(3) };
    expect(includes(whom, person(), now)).toBe(true);
    expect(includes(whom, person({ standing: 'on leave' }), now)).toBe(false);
    expect(includes({ kind: 'everyone' }, person({ standing: 'left' }), now)).toBe(false);
    expect(includes(group(99), person(), now)).toBe(false);
  });

  it('takes in guests only where it says so, and leaves them out and narrows for them as for all', () => {
    const guest = person({ guest: true });
    const everyone: Audience = { kind: 'everyone' };
    const station: Audience = { kind: 'station', id: 7 };
    expect(includes(everyone, guest, now)).toBe(false);
    expect(includes(station, guest, now)).toBe(false);
    // A live group by station says nothing of guests; one they are picked into does.
    expect(includes(group(1), guest, now)).toBe(false);
    expect(includes(group(2), guest, now)).toBe(true);
    expect(includes({ kind: 'person', id: 9 }, guest, now)).toBe(true);
    expect(includes({ kind: 'guests' }, guest, now)).toBe(true);
    expect(includes({ kind: 'guests' }, person(), now)).toBe(false);
    expect(includes({ kind: 'any', of: [everyone, { kind: 'guests' }] }, guest, now)).toBe(true);
    expect(includes({ kind: 'all', of: [group(2), station] }, guest, now)).toBe(true);
    expect(includes({ kind: 'all', of: [group(2), { kind: 'station', id: 8 }] }, guest, now)).toBe(false);
    expect(includes({ kind: 'all', of: [everyone, group(2)] }, guest, now)).toBe(false);
    expect(includes({ kind: 'except', from: group(2), minus: station }, guest, now)).toBe(false);
    expect(includes({ kind: 'except', from: everyone, minus: group(99) }, guest, now)).toBe(false);
  });

  it('counts joining days across a leap day', () => {
    expect(joinedSince('2028-03-01', 1)).toBe('2028-02-29');
    expect(joinedSince('2026-03-01', 60)).toBe('2025-12-31');
    expect(includes(group(4), person({ joinedOn: '2025-12-31' }), now)).toBe(true);
    expect(includes(group(4), person({ joinedOn: '2025-12-30' }), now)).toBe(false);
  });

  it('is nobody for any of nothing and everyone for all of nothing', () => {
    expect(includes({ kind: 'any', of: [] }, person(), now)).toBe(false);
    expect(includes({ kind: 'all', of: [] }, person(), now)).toBe(true);
  });
});

describe('an audience as it is stored', () => {
  it('refuses what nests too deep', () => {
    let deep: Audience = { kind: 'everyone' };
    for (let i = 0; i < 9; i++) deep = { kind: 'any', of: [deep] };
    expect(audienceSchema.safeParse(deep).success).toBe(false);
    expect(audienceSchema.safeParse({ kind: 'group', id: -1 }).success).toBe(false);
  });

  it('comes back to the form it was built from', () => {
    const term = fc.oneof(
      fc.constant<Term>({ kind: 'everyone' }),
      fc.integer({ min: 1, max: 50 }).map((id): Term => ({ kind: 'group', id })),
      fc.constant<Term>({ kind: 'attribute', name: 'licence', value: 'van' }),
      fc.boolean().map((answered): Term => ({ kind: 'answered', occurrenceId: 7, answered })),
    );
    const terms = fc.array(term, { maxLength: 5 });
    fc.assert(
      fc.property(terms, terms, terms, (to, also, except) => {
        const form: AudienceForm = { to, also, except };
        const whom = audienceOf(form);
        if (to.length === 0) expect(whom).toBeNull();
        else expect(formOf(audienceSchema.parse(whom))).toEqual(form);
      }),
    );
  });

  it('that says more than a form can is not made less', () => {
    const nested: Audience = { kind: 'any', of: [{ kind: 'all', of: [group(1), group(2)] }, group(3)] };
    expect(formOf(nested)).toBeNull();
  });
});

describe('an audience in words', () => {
  it('reads as it was chosen', () => {
    const whom = audienceOf(groupsForm([1, 2], [3]))!;
    expect(audienceWords(whom, names)).toBe('Sant Elm and Trustees except On leave');
    expect(audienceWords(group(99), names)).toBe('a group that no longer exists');
  });

  it('tells a reader what brought them in, and only that', () => {
    const whom = audienceOf(groupsForm([1, 2, 4], [3]))!;
    expect(reasonsIn(whom, person(), now, names)).toEqual(['Sant Elm', 'Trustees']);
    expect(reasonsIn(whom, person({ standing: 'on leave' }), now, names)).toEqual([]);
    expect(whyWords(['Sant Elm', 'Trustees'], 'Thistledown')).toContain('Sant Elm and Trustees');
    expect(whyWords(['everyone'], 'Thistledown')).toContain('everyone in Thistledown');
    expect(whyWords([], 'Thistledown')).toContain('when it went out');
  });
});

describe('groups made of groups', () => {
  /** Groups 1 to n, each live and made of those an arbitrary draws for it. */
  const graphs = fc
    .integer({ min: 1, max: 7 })
    .chain((n) => fc.array(fc.uniqueArray(fc.integer({ min: 1, max: n })), { minLength: n, maxLength: n }));
  const directory = (of: number[][]) =>
    new Map(
      of.map((named, at): [number, Group] => [
        at + 1,
        {
          id: at + 1,
          name: `G${at + 1}`,
          needsClearance: false,
          ownerIds: [],
          archived: false,
          kind: 'live',
          rule: { kind: 'any', of: named.map(group) },
        },
      ]),
    );
  /** Whether each group can be reached from each, by Warshall's closure. */
  const closure = (of: number[][]): boolean[][] => {
    const reach = of.map((named) => of.map((_, to) => named.includes(to + 1)));
    for (let via = 0; via < of.length; via++)
      for (const row of reach)
        if (row[via]) for (let to = 0; to < of.length; to++) row[to] ||= reach[via]?.[to] ?? false;
    return reach;
  };

  it('lead in a circle just where they lead back, and the way that is told is one', () => {
    fc.assert(
      fc.property(graphs, (of) => {
        const found = directory(of);
        const reach = closure(of);
        for (const [id, each] of found) {
          if (each.kind !== 'live' || !each.rule) continue;
          const way = circleOf(id, each.rule, found);
          expect(way !== null).toBe(reach[id - 1]?.[id - 1]);
          if (way) {
            expect([way[0], way.at(-1)]).toEqual([id, id]);
            way.slice(1).forEach((to, at) => expect(of[(way[at] ?? 0) - 1]).toContain(to));
          }
          expect(groupsThrough(each.rule, found).sort()).toEqual(
            reach[id - 1]?.flatMap((is, to) => (is ? [to + 1] : [])),
          );
        }
      }),
    );
  });

  it('cannot be told where the rule of one far below cannot be read', () => {
    const found = directory([[2], [3], []]);
    expect(isReadable(group(1), { groups: found })).toBe(true);
    found.set(3, {
      id: 3,
      name: 'G3',
      needsClearance: false,
      ownerIds: [],
      archived: false,
      kind: 'live',
      rule: null,
    });
    expect(isReadable(group(1), { groups: found })).toBe(false);
  });
});
