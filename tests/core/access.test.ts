import { describe, expect, it } from 'vitest';
import { accessWords, canBeInvited, isInvited, lastsFor, type Access } from '../../src/core/access/letter.ts';
import { audienceWords, whyWords, type AudienceNames } from '../../src/core/audience/words.ts';
import { viewFrom } from '../../src/core/desk/runSheetAddress.ts';

const AT = Date.parse('2026-12-07T09:05:00Z');
const NOW = Date.parse('2026-12-07T15:00:00Z');

describe('where somebody stands with getting in', () => {
  const states: [Access, RegExp, boolean, boolean][] = [
    [{ state: 'in', atMs: AT }, /^$/, false, false],
    [{ state: 'no address' }, /no mail address/, false, false],
    [{ state: 'not invited' }, /has not been invited/, true, false],
    [{ state: 'invited', atMs: AT, sentMs: null, failed: null }, /on its way/, true, true],
    [
      { state: 'invited', atMs: AT, sentMs: AT, failed: null },
      /^invited at .*10:05.*, not in yet$/,
      true,
      true,
    ],
    [
      { state: 'invited', atMs: AT, sentMs: null, failed: 'no such mailbox' },
      /did not arrive: no such mailbox/,
      true,
      true,
    ],
    [{ state: 'withdrawn', atMs: AT }, /was withdrawn at .*10:05/, true, false],
    [{ state: 'expired', atMs: AT }, /of .*10:05.* is too old now/, true, false],
  ];
  it.each(states)(
    '%j is told on the reader’s clock, with whether they can be invited',
    (access, words, can, is) => {
      expect(accessWords(access, 'Europe/Madrid', NOW)).toMatch(words);
      expect([canBeInvited(access), isInvited(access)]).toEqual([can, is]);
    },
  );

  it('is nothing to invite of somebody of whom it is not known', () => {
    expect([canBeInvited(undefined), isInvited(undefined)]).toEqual([false, false]);
    expect([lastsFor('invitation'), lastsFor('reset'), lastsFor('sign-in')]).toEqual([
      '21 days',
      '2 h',
      '1 h',
    ]);
  });
});

describe('the address of a run sheet', () => {
  const own = { zone: 'Europe/London', nowMs: NOW };
  it('names a view; what it does not name, or names wrongly, is as at first', () => {
    expect(viewFrom('', own)).toEqual({
      span: 'day',
      fromMs: NOW,
      by: 'audience',
      zone: 'Europe/London',
      search: '',
      state: '',
    });
    expect(viewFrom('span=week&by=board&zone=Asia%2FTokyo&q=seeds', own)).toMatchObject({
      span: 'week',
      by: 'board',
      zone: 'Asia/Tokyo',
      search: 'seeds',
    });
    for (const wrong of [
      'span=century',
      'by=nobody',
      'zone=Moon%2FBase',
      'from=tomorrow',
      'from=2026-02-30',
      'state=flown',
      `q=${'x'.repeat(200)}`,
    ])
      expect(viewFrom(wrong, own)).toEqual(viewFrom('', own));
  });

  it('from a day is told on the clock of the zone it names', () => {
    const of = (search: string): number => viewFrom(search, own).fromMs;
    expect(of('from=2026-12-10&zone=Asia%2FTokyo') - of('from=2026-12-10')).toBe(-9 * 3_600_000);
  });
});

describe('an audience in words', () => {
  const known: AudienceNames = {
    group: (id) => (id === 1 ? 'Vault keyholders' : undefined),
    station: (id) => (id === 1 ? 'Sant Elm' : undefined),
    person: (id) => (id === 1 ? 'Otieno Barasi' : undefined),
    occurrence: (id) => (id === 1 ? 'Road closed' : undefined),
    session: (id) => (id === 1 ? 'Evening in the drying room' : undefined),
  };
  it('says what each part of it is, and of what is gone that it is', () => {
    const said = (audience: Parameters<typeof audienceWords>[0]): string => audienceWords(audience, known);
    expect(said({ kind: 'guests' })).toBe('guests');
    expect(said({ kind: 'standing', standing: 'on leave' })).toBe('those on leave');
    expect(said({ kind: 'joined since', date: '2026-03-01' })).toBe('those who joined since 1 March 2026');
    expect(said({ kind: 'session', dateId: 1, stands: 'waiting' })).toBe(
      'those who wait for a place at “Evening in the drying room”',
    );
    expect(said({ kind: 'answered', occurrenceId: 1, answered: false })).toBe(
      'those who have not answered “Road closed”',
    );
    expect(
      said({
        kind: 'any',
        of: [
          { kind: 'group', id: 1 },
          { kind: 'station', id: 1 },
          { kind: 'person', id: 1 },
        ],
      }),
    ).toBe('Vault keyholders, everyone at Sant Elm and Otieno Barasi');
    expect(said({ kind: 'any', of: [] })).toBe('nobody');
    for (const [gone, words] of [
      [{ kind: 'group', id: 9 }, 'a group that no longer exists'],
      [{ kind: 'station', id: 9 }, 'everyone at a station that no longer exists'],
      [{ kind: 'person', id: 9 }, 'a person who is gone'],
      [{ kind: 'reached', occurrenceId: 9 }, 'those who got “something that is gone”'],
      [{ kind: 'read', occurrenceId: 9 }, 'those who have read “something that is gone”'],
      [{ kind: 'session', dateId: 9, stands: 'yes' }, 'those who come to “a session that is gone”'],
    ] as const)
      expect(said(gone)).toBe(words);
  });

  it('answers why somebody got something, also where nobody knows any more', () => {
    expect(whyWords([], 'Thistledown House')).toMatch(/You were among those it was sent to/);
    expect(whyWords(['you are at Sant Elm'], 'Thistledown House')).toMatch(/Sant Elm/);
  });
});
