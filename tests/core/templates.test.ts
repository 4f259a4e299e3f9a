import { describe, expect, it } from 'vitest';
import { automationSchema, newAutomation } from '../../src/core/automation/automation.ts';
import type { AutomationChoices } from '../../src/core/automation/choices.ts';
import { fieldsOf } from '../../src/core/automation/fields.ts';
import { NOBODY_CALLED } from '../../src/core/automation/calls.ts';
import { fillContent } from '../../src/core/automation/filling.ts';
import { automationProblems } from '../../src/core/automation/problems.ts';
import { takeOut } from '../../src/core/automation/taken.ts';
import { readTaken } from '../../src/core/automation/takenSchema.ts';
import { sheetsFor, templateLacks, TEMPLATES, type Answered } from '../../src/core/automation/templates.ts';
import { sectionsText } from '../../src/core/content/text.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';

const column = (id: string, name: string, kind: SheetColumn['kind']): SheetColumn => ({
  id,
  name,
  kind,
  unit: '',
  choices: [],
});
const choices: AutomationChoices = {
  audience: { groups: [{ id: 3, name: 'Sant Elm' }] } as never,
  boards: [{ id: 4, name: 'Sant Elm', automations: true }],
  outside: [],
  dates: [],
  sheets: [
    {
      id: 5,
      name: 'Everything',
      form: true,
      columns: [
        column('c1', 'Site', 'text'),
        column('c2', 'Humidity', 'number'),
        column('c3', 'Limit', 'number'),
        column('c4', 'Day', 'date'),
        column('c5', 'Leads', 'person'),
      ],
    },
    { id: 6, name: 'Bare', form: false, columns: [column('c1', 'Note', 'text')] },
  ],
  senders: [],
  sources: [
    {
      id: 7,
      name: 'Conditions',
      url: 'https://x.example/?place={place}',
      fields: [{ name: 'river', pointer: '/river', kind: 'number', unit: 'm' }],
    },
  ],
  hooks: [],
  sessions: [{ id: 8, title: 'Thursday exchange', recurs: true }],
  hearsAll: true,
  systems: [],
  zones: [],
  people: {},
};
const answered: Answered = {
  name: 'Of a template',
  groupId: 3,
  boardId: 4,
  sheetId: 5,
  sourceId: 7,
  sessionId: 8,
  hour: '08:30',
};
const around = { choices, zone: 'Europe/London', tomorrow: '2026-11-28' };

describe.each(TEMPLATES.map((template) => [template.key, template] as const))('%s', (_, template) => {
  const automation = template.make(answered, around);
  const fields = fieldsOf(
    automation.when,
    'sheetId' in automation.when && automation.when.sheetId !== null ? choices.sheets[0]!.columns : [],
    automation.lookup ? choices.sources[0]!.fields : [],
  );

  it('can be put to work as it is', () => {
    expect(templateLacks(template, choices)).toBeNull();
    expect(automationProblems(automation, fields)).toEqual([]);
    expect(automationSchema.parse(JSON.parse(JSON.stringify(automation)))).toEqual(automation);
  });

  it('is never empty, whichever of its fields are', () => {
    const named = [...fields.keys()];
    // Each field empty by itself, all of them, and none.
    for (const empty of [[], named, ...named.map((name) => [name])]) {
      const values = new Map(
        named.filter((name) => !empty.includes(name)).map((name) => [name, '2026-11-28']),
      );
      const { content } = fillContent(automation, {
        fields,
        values,
        rows: [{ id: 1, values }],
        zone: 'UTC',
        called: NOBODY_CALLED,
      });
      expect(sectionsText(content.sections).trim()).not.toBe('');
    }
  });

  it('is taken out and brought in as the same', () => {
    expect(readTaken(takeOut(automation))).toEqual({ automation });
  });
});

it('offers only what can be made here, and says why not', () => {
  const bare = { ...choices, sheets: choices.sheets.slice(1), sources: [], sessions: [] };
  expect(TEMPLATES.filter((each) => templateLacks(each, bare) === null).map((each) => each.key)).toEqual([
    'welcome',
    'before a meeting',
    'ask closes',
    'evening reminder',
  ]);
  expect(
    sheetsFor(
      TEMPLATES.find((each) => each.key === 'form sent in')!,
      choices,
    ).map(({ id }) => id),
  ).toEqual([5]);
});

it('says what is wrong with a file that is none of ours, by its place', () => {
  expect(readTaken('{')).toEqual({ problem: 'The file is not JSON.' });
  expect(readTaken('{"format":"other"}')).toEqual({
    problem: 'format: It is no automation that was taken out of Clear Bell.',
  });
  const broken = JSON.parse(takeOut(newAutomation('x', { kind: 'joins', groupId: 1 }))) as {
    automation: { ceiling: number };
  };
  broken.automation.ceiling = 0;
  expect(readTaken(JSON.stringify(broken))).toEqual({
    problem: 'automation.ceiling: At least one an hour.',
  });
});
