import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newAutomation } from '../../src/core/automation/automation.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import {
  blanksIn,
  datesMoved,
  filledPart,
  inMakingOrder,
  timesNamed,
} from '../../src/core/patterns/filling.ts';
import {
  aspectsChanged,
  partKey,
  withAspects,
  type MadeParts,
  type PartOf,
  type PatternPart,
} from '../../src/core/patterns/pattern.ts';
import { answersSchema, readPattern, storedPattern } from '../../src/core/patterns/patternSchema.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';

const ways = {
  about: '',
  needsClearance: false,
  bundling: null,
  joining: 'closed' as const,
  ownerBrings: false,
  callable: false,
};
const board = (part: Partial<PartOf<'board'>> = {}): PatternPart => ({
  kind: 'board',
  id: 5,
  name: 'Sant Elm',
  about: 'All that Sant Elm’s people hear; not Sant Elmo’s.',
  groupId: 2,
  ...PRESETS.talk.switches,
  sectionLimit: 10,
  pinLimit: 3,
  contactsRead: false,
  links: [
    { label: 'Sant Elm form', url: `https://bell.example/forms/${'k'.repeat(22)}` },
    { label: 'Board', url: 'https://bell.example/boards/5#links' },
    { label: 'Sant Elm abroad', url: 'https://elsewhere.example/boards/5' },
  ],
  ...part,
});
const group = (id: number, rule: PartOf<'group'>['rule'], name = `Group ${id}`): PatternPart => ({
  kind: 'group',
  id,
  name,
  rule,
  ...ways,
});
const keys: PatternPart = {
  kind: 'automation',
  id: 9,
  automation: {
    ...newAutomation('Keys at Sant Elm', {
      kind: 'schedule',
      start: '2026-11-30T17:30',
      zone: 'Europe/Madrid',
      rule: WEEKLY,
      sheetId: 7,
    }),
    until: '2026-12-31',
    tell: {
      to: {
        kind: 'audience',
        audience: {
          kind: 'any',
          of: [
            { kind: 'group', id: 3 },
            { kind: 'person', id: 4 },
          ],
        },
      },
      boards: [5, 6],
      outside: [],
      boardField: null,
      mail: false,
      otherwise: null,
    },
  },
};
const made = (ids: Record<string, number> = {}, forms: Record<string, string> = {}): MadeParts => ({
  ids: new Map(Object.entries(ids)),
  forms: new Map(Object.entries(forms)),
  origin: 'https://bell.example',
});
const SANT_ELM = { called: 'Sant Elm' };

describe('a part that is filled in', () => {
  it('has the name of the new place where that of the old one stands as a whole', () => {
    const filled = filledPart(SANT_ELM, board(), { name: 'Oru $& Terrace', given: {} }, made());
    expect(filled).toMatchObject({
      name: 'Oru $& Terrace',
      about: 'All that Oru $& Terrace’s people hear; not Sant Elmo’s.',
    });
    expect(timesNamed([board()], 'Sant Elm')).toBe(4);
    expect(timesNamed([board()], 'Sant')).toBe(5);
  });

  it('names what is made with it, and what is shared as before', () => {
    const filled = filledPart(
      SANT_ELM,
      keys,
      {
        name: 'Oru Terrace',
        given: { 'person:4': '40', 'zone:Europe/Madrid': 'Asia/Kathmandu', 'date:2026-12-31': '2027-01-31' },
      },
      made({ 'board:5': 50, 'group:3': 30, 'sheet:70': 1, 'automation:9': 90 }),
    );
    expect(filled).toMatchObject({
      id: 9,
      automation: {
        name: 'Keys at Oru Terrace',
        until: '2027-01-31',
        when: { start: '2026-11-30T17:30', zone: 'Asia/Kathmandu', sheetId: 7 },
        tell: { boards: [50, 6], to: { audience: { of: [{ id: 30 }, { id: 40 }] } } },
      },
    });
  });

  it('leads to the pages and forms of the new place', () => {
    const form = 'n'.repeat(22);
    const filled = filledPart(
      SANT_ELM,
      board(),
      { name: 'Oru Terrace', given: {} },
      made({ 'board:5': 50, 'group:2': 20 }, { ['k'.repeat(22)]: form }),
    );
    expect(filled).toMatchObject({
      groupId: 20,
      links: [
        { label: 'Oru Terrace form', url: `https://bell.example/forms/${form}` },
        { url: 'https://bell.example/boards/50#links' },
        { label: 'Oru Terrace abroad', url: 'https://elsewhere.example/boards/5' },
      ],
    });
  });

  it('is the same under the same name, whatever it says', () => {
    fc.assert(
      fc.property(fc.string(), fc.string({ minLength: 1 }), (about, called) => {
        const part = board({ about, name: called });
        expect(filledPart({ called }, part, { name: called, given: {} }, made())).toEqual(part);
      }),
    );
  });
});

it('asks for stations, people, zones and dates, each once, dates in their order', () => {
  const parts = [group(2, { kind: 'station', id: 3 }), keys, board()];
  expect(blanksIn(parts)).toEqual([
    { key: 'station:3', kind: 'station', was: '3', in: ['group:2'] },
    { key: 'person:4', kind: 'person', was: '4', in: ['automation:9'] },
    { key: 'zone:Europe/Madrid', kind: 'zone', was: 'Europe/Madrid', in: ['automation:9'] },
    { key: 'date:2026-11-30', kind: 'date', was: '2026-11-30', in: ['automation:9'] },
    { key: 'date:2026-12-31', kind: 'date', was: '2026-12-31', in: ['automation:9'] },
  ]);
});

it('makes each part after those it names, in whatever order they are kept', () => {
  const parts: PatternPart[] = [
    keys,
    { kind: 'pin', id: 8, boardId: 5, content: simpleContent('Welcome', { type: 'doc', content: [] }) },
    board({ groupId: 3 }),
    group(3, { kind: 'all', of: [{ kind: 'group', id: 2 }, { kind: 'everyone' }] }),
    group(2, { kind: 'everyone' }),
  ];
  const inOrder = ['group:2', 'group:3', 'board:5', 'pin:8', 'automation:9'];
  fc.assert(
    fc.property(fc.shuffledSubarray(parts, { minLength: parts.length }), (shuffled) => {
      expect(inMakingOrder(shuffled).map(partKey)).toEqual(inOrder);
    }),
  );
});

it('moves the other dates by as many days, but those that were chosen, over the change of the clock too', () => {
  const dates = ['2026-10-20', '2026-10-27', '2027-02-28'];
  expect(datesMoved(dates, '2027-03-20', { '2027-02-28': '2027-12-24' })).toEqual({
    '2026-10-20': '2027-03-20',
    '2026-10-27': '2027-03-27',
    '2027-02-28': '2027-12-24',
  });
  expect(datesMoved([], '2027-03-20', {})).toEqual({});
});

it('tells what differs whatever the order of fields, and takes that alone over', () => {
  const other = board({ about: 'Another', pinLimit: 9 });
  const turned = Object.fromEntries(Object.entries(board()).toReversed()) as PatternPart;
  expect(aspectsChanged(board(), turned)).toEqual([]);
  expect(aspectsChanged(board(), other).sort()).toEqual(['about', 'pinLimit']);
  expect(withAspects(board(), other, ['about', 'id'])).toEqual(board({ about: 'Another' }));
});

it('is read as it was kept, and never from a later version', () => {
  const document = {
    called: 'Sant Elm',
    parts: [group(2, { kind: 'station', id: 3 }), board()],
    blanks: ['station:3'],
  };
  expect(readPattern(storedPattern(document))).toEqual(document);
  expect(() => readPattern(JSON.stringify({ ...document, version: 9 }))).toThrow(/another version/);
});

it('refuses answers that are none, by field', () => {
  const read = answersSchema.safeParse({
    name: ' ',
    ownerId: 1,
    atWork: true,
    given: { 'date:2026-12-31': '2026-02-30', 'zone:Europe/Madrid': 'Moon', 'station:3': 'x' },
  });
  expect(read.error?.issues.map(({ path }) => path.join('.')).sort()).toEqual([
    'given.date:2026-12-31',
    'given.station:3',
    'given.zone:Europe/Madrid',
    'name',
  ]);
});
