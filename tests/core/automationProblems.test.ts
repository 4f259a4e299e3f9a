import { describe, expect, it } from 'vitest';
import { newAutomation, type Automation, type When } from '../../src/core/automation/automation.ts';
import type { Condition } from '../../src/core/automation/condition.ts';
import { fieldsOf } from '../../src/core/automation/fields.ts';
import { automationProblems } from '../../src/core/automation/problems.ts';
import { automationSentence, type AutomationNames } from '../../src/core/automation/words.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { CellKind } from '../../src/core/sheets/cell.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';

const column = (id: string, name: string, kind: CellKind = 'text'): SheetColumn => ({
  id,
  name,
  kind,
  unit: '',
  choices: [],
});
const COLUMNS = [
  column('c1', 'Site'),
  column('c2', 'Due', 'date'),
  column('c3', 'Starts', 'moment'),
  column('c4', 'Curator', 'person'),
];
const everyone = { kind: 'audience' as const, audience: { kind: 'everyone' as const } };
const written: Automation['content'] = {
  ...newAutomation('', { kind: 'joins', groupId: 1 }).content,
  title: 'Seeds are due',
  sections: [
    plainSection({
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Bring them to the vault.' }] }],
    }),
  ],
};
const MEETS: When = { kind: 'meets', sheetId: 1, again: false };
const SCHEDULE: When = {
  kind: 'schedule',
  sheetId: 1,
  start: '2026-12-07T09:00',
  zone: 'Europe/London',
  rule: WEEKLY,
};
const DATE: When = {
  kind: 'date',
  sheetId: 1,
  column: 'c2',
  span: -2,
  unit: 'days',
  time: '09:00',
  zone: 'Europe/London',
};

/** An automation that could be put to work, but for what is given. */
function whole(when: When, part: Partial<Automation> = {}): Automation {
  const begun = newAutomation('Seeds due', when);
  return { ...begun, content: written, tell: { ...begun.tell, to: everyone }, ...part };
}
const problemsOf = (when: When, part: Partial<Automation> = {}): string[] =>
  automationProblems(whole(when, part), fieldsOf(when, COLUMNS)).map(
    ({ field, detail }) => `${field}: ${detail}`,
  );
const told = (when: When, part: Partial<Automation['tell']>): string[] =>
  problemsOf(when, { tell: { ...whole(when).tell, ...part } });

const someCondition: Condition = {
  kind: 'all',
  of: [{ kind: 'test', field: 'record.c1', test: 'is filled in', against: { kind: 'value', value: '' } }],
};

describe('what keeps an automation from being put to work', () => {
  it('is nothing where it is whole, whatever sets it off', () => {
    for (const when of [MEETS, SCHEDULE, DATE, { kind: 'joins', groupId: 1 } as const])
      expect(problemsOf(when)).toEqual([]);
  });

  it('is a name, a text, and somebody or somewhere to tell', () => {
    expect(problemsOf(MEETS, { name: '  ' })).toEqual(['name: Give it a name.']);
    expect(problemsOf(MEETS, { content: { ...written, title: '' } })[0]).toMatch(/^content\.title: /);
    const nobody = { kind: 'audience' as const, audience: { kind: 'any' as const, of: [] } };
    for (const to of [null, nobody])
      expect(told(MEETS, { to })).toEqual([
        'tell: It tells nobody. Choose people, a board, or an outside place.',
      ]);
    for (const somewhere of [{ boards: [3] }, { outside: [2] }, { boardField: 'record.c1' }])
      expect(told(MEETS, { to: null, ...somewhere })).toEqual([]);
  });

  it('is whoever is told without being there: one person, who was invited, who asked', () => {
    expect(told(MEETS, { to: { kind: 'person' } })).toEqual([
      'tell: It is about no one person. Choose an audience, or whoever a column names.',
    ]);
    expect(told(MEETS, { to: { kind: 'author' } })).toEqual([
      'tell: It is about nothing that was asked. Choose an audience.',
    ]);
    expect(told(MEETS, { to: { kind: 'invited', which: 'all' } as never })).toEqual([
      'tell: It is about no session. Choose an audience.',
    ]);
    expect(told({ kind: 'joins', groupId: 1 }, { to: { kind: 'person' } })).toEqual([]);
  });

  it('is a column that is gone, wherever it is named', () => {
    const GONE = /column.*not there any more/;
    for (const [field, found] of [
      ['when', problemsOf({ ...DATE, column: 'c9' })],
      ['when', problemsOf({ kind: 'changes', sheetId: 1, column: 'c9' })],
      ['tell', told(MEETS, { to: { kind: 'named', field: 'record.c9', system: '' } })],
      ['tell', told(MEETS, { boardField: 'record.c9' })],
      ['each', problemsOf(MEETS, { each: { kind: 'group', field: 'record.c9' } })],
      ['table', problemsOf(MEETS, { table: { columns: ['record.c1', 'record.c9'] } as never })],
    ] as const) {
      expect(found[0]).toMatch(GONE);
      expect(found[0]?.split(':')[0]).toBe(field);
    }
  });

  it('is a date that is none, or a day counted in hours', () => {
    expect(problemsOf({ ...DATE, column: 'c1' })).toEqual([
      'when: Site holds no dates. Choose a column that does.',
    ]);
    expect(problemsOf({ ...DATE, unit: 'hours' })).toEqual([
      'when: Due holds days: say how many days before or after.',
    ]);
    expect(problemsOf({ ...DATE, column: 'c3', unit: 'hours' })).toEqual([]);
  });

  it('is a clock that cannot be gone by, and a condition on no records', () => {
    expect(problemsOf({ ...SCHEDULE, sheetId: null }, { if: someCondition })).toContain(
      'if: It looks at no records, so there is nothing to hold. Choose a record sheet.',
    );
    const theirs = { ...SCHEDULE, zone: null };
    expect(problemsOf(theirs)).toEqual([]);
    expect(told(theirs, { to: { kind: 'named', field: 'record.c4', system: '' } })[0]).toMatch(
      /^when: On each reader’s clock it can only tell an audience/,
    );
    expect(problemsOf(theirs, { due: { kind: 'hour', time: '10:00', zone: null } as never })[0]).toMatch(
      /^when: On each reader’s clock/,
    );
    expect(
      problemsOf({ ...SCHEDULE, rule: { ...WEEKLY, end: { kind: 'until', date: '2026-12-01' } } })[0]?.split(
        ':',
      )[0],
    ).toBe('when');
  });

  it('is a column of each, where it is said once for all', () => {
    const tell = { ...whole(SCHEDULE).tell, to: { kind: 'named' as const, field: 'record.c4', system: '' } };
    expect(problemsOf(SCHEDULE, { tell, each: { kind: 'once' } })).toEqual([
      'tell: Said once for all, it cannot go by a column of each. Say it for each, or choose an audience.',
    ]);
    expect(problemsOf(SCHEDULE, { tell, each: { kind: 'each' } })).toEqual([]);
  });

  it('is a text that may be empty when it is said, unless something stands instead or the condition asks for it', () => {
    const text = (fallback: string): Automation['content'] => ({
      ...written,
      sections: [
        plainSection({
          type: 'doc',
          content: [
            {
              type: 'paragraph',
              content: [{ type: 'field', attrs: { name: 'record.c1', fallback } }],
            },
          ],
        }),
      ],
    });
    expect(problemsOf(MEETS, { content: text('') })[0]).toMatch(
      /^content: Site may be empty when it is said/,
    );
    expect(problemsOf(MEETS, { content: text('the vault') })).toEqual([]);
    expect(problemsOf(MEETS, { content: text(''), if: someCondition })).toEqual([]);
  });

  it('is a last day before the first', () => {
    expect(problemsOf(MEETS, { from: '2026-12-10', until: '2026-12-09' })).toEqual([
      'until: It ends before it begins. Choose a later last day.',
    ]);
    expect(problemsOf(MEETS, { from: '2026-12-10', until: '2026-12-10' })).toEqual([]);
  });
});

describe('the sentence of an automation', () => {
  const nothing = (): undefined => undefined;
  const names: AutomationNames = {
    group: nothing,
    station: nothing,
    person: nothing,
    occurrence: nothing,
    board: nothing,
    outside: nothing,
    sheet: nothing,
    source: nothing,
    hook: nothing,
    calendarSession: nothing,
    sender: nothing,
  };
  const read = (when: When, part: Partial<Automation> = {}): string =>
    JSON.stringify(automationSentence(whole(when, part), fieldsOf(when, []), names));

  it('says of what is gone that it is, instead of leaving it out', () => {
    expect(read({ kind: 'joins', groupId: 1 })).toMatch(/a group that no longer exists/);
    expect(read({ kind: 'called', hookId: 4 })).toMatch(/a way in that no longer exists sends something/);
    expect(read(DATE)).toMatch(/a record sheet that no longer exists/);
    const tell = { ...whole(MEETS).tell, boards: [7], outside: [8], boardField: 'record.c9' };
    const said = read(MEETS, { tell });
    expect(said).toMatch(/a board that no longer exists/);
    expect(said).toMatch(/an outside place that no longer exists/);
    expect(said).toMatch(/a column that is gone/);
    expect(read(MEETS, { each: { kind: 'group', field: 'record.c9' } })).toMatch(/each column that is gone/);
  });
});
