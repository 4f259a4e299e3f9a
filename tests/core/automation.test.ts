import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newAutomation, type Automation } from '../../src/core/automation/automation.ts';
import { automationSchema } from '../../src/core/automation/automation.ts';
import {
  conditionProblems,
  conditionWords,
  demandsFilled,
  holdsFor,
  testsFor,
  type Against,
  type Condition,
  type FieldInfo,
  type Values,
} from '../../src/core/automation/condition.ts';
import { fieldsOf } from '../../src/core/automation/fields.ts';
import { NOBODY_CALLED } from '../../src/core/automation/calls.ts';
import { fillContent } from '../../src/core/automation/filling.ts';
import { itemsOf, type Row } from '../../src/core/automation/items.ts';
import { automationProblems } from '../../src/core/automation/problems.ts';
import { addressOf, inputsOf, sourceSchema } from '../../src/core/automation/source.ts';
import { automationSentence, automationText } from '../../src/core/automation/words.ts';
import type { Doc, Inline } from '../../src/core/content/document.ts';
import { documentHtml } from '../../src/core/content/html.ts';
import { markdownOf } from '../../src/core/content/markdown.ts';
import { plainSection } from '../../src/core/content/section.ts';
import { documentText } from '../../src/core/content/text.ts';
import { foldHandle } from '../../src/core/directory/identity.ts';
import { CELL_KINDS, cellWords, readCell, type CellKind } from '../../src/core/sheets/cell.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';

const column = (id: string, name: string, kind: CellKind = 'text', unit = ''): SheetColumn => ({
  id,
  name,
  kind,
  unit,
  choices: [],
});
const COLUMNS = [
  column('c1', 'Site'),
  column('c2', 'Humidity', 'number', '%'),
  column('c3', 'Limit', 'number', '%'),
  column('c4', 'Due', 'date'),
];
const FIELDS = fieldsOf({ kind: 'meets', sheetId: 1, again: false }, COLUMNS);
const at = { nowMs: Date.parse('2026-11-27T23:30:00Z'), zone: 'Pacific/Auckland' };
const values = (cells: Record<string, string>): Values =>
  new Map(Object.entries(cells).map(([id, value]) => [`record.${id}`, value]));
const test = (
  field: string,
  how: Parameters<typeof one>[1],
  against: Against = { kind: 'value', value: '' },
) => one(field, how, against);
function one(field: string, how: ReturnType<typeof testsFor>[number], against: Against): Condition {
  return { kind: 'test', field, test: how, against };
}
const value = (text: string): Against => ({ kind: 'value', value: text });

describe('conditions', () => {
  it('compare numbers as numbers, also with a share of another column', () => {
    const near = test('record.c2', 'is over', { kind: 'field', field: 'record.c3', share: 90 });
    expect(holdsFor(near, FIELDS, values({ c2: '54.1', c3: '60' }), at)).toBe(true);
    expect(holdsFor(near, FIELDS, values({ c2: '54', c3: '60' }), at)).toBe(false);
    expect(holdsFor(near, FIELDS, values({ c2: '9', c3: '60' }), at)).toBe(false);
    expect(holdsFor(near, FIELDS, values({ c2: '54.1' }), at)).toBe(false);
    expect(holdsFor(test('record.c2', 'is', value('7')), FIELDS, values({ c2: '7.0' }), at)).toBe(true);
    expect(conditionWords(near, FIELDS)).toBe('Humidity is over nine tenths of Limit');
  });

  it('compare days by the calendar of the organisation, where it is tomorrow already', () => {
    const today = test('record.c4', 'is', { kind: 'now', span: 0, unit: 'days' });
    expect(holdsFor(today, FIELDS, values({ c4: '2026-11-28' }), at)).toBe(true);
    expect(holdsFor(today, FIELDS, values({ c4: '2026-11-27' }), at)).toBe(false);
    const soon = test('record.c4', 'is before', { kind: 'now', span: 3, unit: 'days' });
    expect(holdsFor(soon, FIELDS, values({ c4: '2026-11-30' }), at)).toBe(true);
    expect(holdsFor(soon, FIELDS, values({ c4: '2026-12-01' }), at)).toBe(false);
    expect(conditionWords(soon, FIELDS)).toBe('Due is before 3 days from now');
  });

  it('match text without regard to size or form of letters, and hold what is empty for nothing but empty', () => {
    expect(
      holdsFor(test('record.c1', 'is', value('sant elm')), FIELDS, values({ c1: ' Sant Elm' }), at),
    ).toBe(true);
    expect(
      holdsFor(
        test('record.c1', 'is one of', value('Low Ford, sant elm')),
        FIELDS,
        values({ c1: 'Sant Elm' }),
        at,
      ),
    ).toBe(true);
    expect(
      holdsFor(test('record.c1', 'contains', value('ELM')), FIELDS, values({ c1: 'Sant Elm' }), at),
    ).toBe(true);
    for (const how of ['is', 'is one of', 'contains'] as const)
      expect(holdsFor(test('record.c1', how, value('')), FIELDS, values({}), at)).toBe(false);
    expect(holdsFor(test('record.c1', 'is not', value('x')), FIELDS, values({}), at)).toBe(true);
  });

  const arbitraryTest = fc.constantFrom('record.c1', 'record.c2', 'record.c3', 'record.c4').chain((field) =>
    fc.record({
      kind: fc.constant('test' as const),
      field: fc.constant(field),
      test: fc.constantFrom(...testsFor(FIELDS.get(field)!.kind)),
      against: fc.oneof(
        fc.constantFrom('', '5', '7.5', 'a', '2026-11-28').map(value),
        fc
          .constantFrom('record.c2', 'record.c3')
          .map((of): Against => ({ kind: 'field', field: of, share: 100 })),
      ),
    }),
  );
  const { condition } = fc.letrec<{ condition: Condition }>((tie) => ({
    condition: fc.oneof(
      { maxDepth: 3 },
      arbitraryTest,
      fc.record({
        kind: fc.constantFrom('all' as const, 'any' as const),
        of: fc.array(tie('condition'), { maxLength: 3 }),
      }),
    ),
  }));
  const cells = fc.record({
    c1: fc.constantFrom('', 'a', 'B'),
    c2: fc.constantFrom('', '5', '7.5', '-3'),
    c3: fc.constantFrom('', '5', '60'),
    c4: fc.constantFrom('', '2026-11-27', '2026-11-28'),
  });
  const given = (row: Record<string, string>): Values =>
    values(Object.fromEntries(Object.entries(row).filter(([, cell]) => cell !== '')));

  it('that demand a field hold for nothing in which it is empty', () => {
    fc.assert(
      fc.property(condition, cells, (written, row) => {
        for (const field of ['record.c1', 'record.c2', 'record.c3', 'record.c4'])
          if (demandsFilled(written, field) && holdsFor(written, FIELDS, given(row), at))
            expect(given(row).get(field)).toBeTruthy();
      }),
      { numRuns: 2000 },
    );
  });

  it('follow the laws of all and any', () => {
    fc.assert(
      fc.property(fc.array(condition, { maxLength: 4 }), cells, (parts, row) => {
        const each = parts.map((part) => holdsFor(part, FIELDS, given(row), at));
        expect(holdsFor({ kind: 'all', of: parts }, FIELDS, given(row), at)).toBe(each.every(Boolean));
        expect(holdsFor({ kind: 'any', of: parts }, FIELDS, given(row), at)).toBe(each.some(Boolean));
      }),
    );
  });

  it('say what is wrong with them', () => {
    expect(conditionProblems(test('record.c9', 'is filled in'), FIELDS)[0]).toContain('not there any more');
    expect(conditionProblems(test('record.c2', 'is over', value('much')), FIELDS)[0]).toContain('no number');
    expect(conditionProblems(test('record.c1', 'is over', value('1')), FIELDS)[0]).toContain(
      'cannot be tested',
    );
  });
});

const rowsOf = fc
  .array(fc.constantFrom('', 'a', 'A ', 'b', 'ß'), { maxLength: 20 })
  .map((sites) => sites.map((site, id): Row => ({ id, values: values(site === '' ? {} : { c1: site }) })));

describe('what it speaks of', () => {
  it('holds each row once, however they are grouped', () => {
    fc.assert(
      fc.property(
        rowsOf,
        fc.constantFrom(
          { kind: 'each' } as const,
          { kind: 'once' } as const,
          { kind: 'group', field: 'record.c1' } as const,
        ),
        (rows, each) => {
          const items = itemsOf(rows, each);
          expect(items.flatMap((item) => item.rows.map((row) => row.id)).sort()).toEqual(
            rows.map((row) => row.id).sort(),
          );
          expect(new Set(items.map((item) => item.key)).size).toBe(items.length);
          if (rows.length === 0) expect(items).toEqual([]);
        },
      ),
    );
  });

  it('knows of several what they hold alike', () => {
    const rows: Row[] = [
      { id: 1, values: values({ c1: 'Sant Elm', c2: '5', c3: '9' }) },
      { id: 2, values: values({ c1: 'sant elm', c2: '6', c3: '9' }) },
    ];
    const [item] = itemsOf(rows, { kind: 'group', field: 'record.c1' });
    expect([...item!.values]).toEqual([
      ['record.c3', '9'],
      ['record.c1', 'Sant Elm'],
    ]);
  });
});

const says = (title: string, ...parts: Inline[]): Automation => ({
  ...newAutomation('Of a test', { kind: 'meets', sheetId: 1, again: false }),
  content: {
    ...newAutomation('', { kind: 'joins', groupId: 1 }).content,
    title,
    sections: [plainSection({ type: 'doc', content: [{ type: 'paragraph', content: parts }] })],
  },
});
const field = (name: `record.${string}`, fallback = ''): Inline => ({
  type: 'field',
  attrs: { name, fallback },
});
const filled = (automation: Automation, cells: Record<string, string>, rows: Row[] = []) =>
  fillContent(automation, {
    fields: FIELDS,
    values: values(cells),
    rows,
    zone: 'UTC',
    called: NOBODY_CALLED,
  });
const textOf = (automation: Automation, cells: Record<string, string>): string =>
  documentText(filled(automation, cells).content.sections[0]!.document);

describe('what it says', () => {
  it('fills fields in as words in the reader’s form, and leaves those of the reader', () => {
    const written = says(
      '{Site}: {Humidity}',
      field('record.c4'),
      { type: 'text', text: ' ' },
      {
        type: 'field',
        attrs: { name: 'first name', fallback: 'friend' },
      },
    );
    const { content, empty } = filled(written, { c1: 'Sant Elm', c2: '1054.5', c4: '2026-12-01' });
    expect(content.title).toBe('Sant Elm: 1,054.5%');
    expect(textOf(written, { c1: 'x', c2: '1', c4: '2026-12-01' })).toBe('Tuesday 1 December friend');
    expect(empty).toEqual([]);
  });

  it('is never empty where the condition demands its fields or something stands instead: whatever the record holds', () => {
    const cellsOf = fc.record({
      c1: fc.constantFrom('', 'Sant Elm', '<b>'),
      c2: fc.constantFrom('', '5'),
      c3: fc.constantFrom('', '9'),
    });
    fc.assert(
      fc.property(
        cellsOf,
        fc.constantFrom('', 'somewhere'),
        fc.constantFrom('', 'dry'),
        fc.subarray(['record.c1', 'record.c2', 'record.c3']),
        (cells, forSite, forHumidity, demanded) => {
          const automation: Automation = {
            ...says(`At {Site|${forSite}}`, field('record.c2', forHumidity)),
            tell: {
              to: { kind: 'audience', audience: { kind: 'everyone' } },
              boards: [],
              outside: [],
              boardField: null,
              mail: true,
              otherwise: null,
            },
            if: { kind: 'all', of: demanded.map((name) => test(name, 'is filled in')) },
          };
          const given = Object.fromEntries(Object.entries(cells).filter(([, cell]) => cell !== ''));
          const mayWork = automationProblems(automation, FIELDS).length === 0;
          if (!mayWork || !holdsFor(automation.if, FIELDS, values(given), at)) return;
          const { content, empty } = filled(automation, given);
          expect(empty).toEqual([]);
          expect(content.title).not.toBe('At ');
          expect(documentText(content.sections[0]!.document)).not.toBe('');
        },
      ),
    );
  });

  it('names what would have been empty, keeps braces that name no field, and encodes what stands in a link', () => {
    const written = {
      ...says('{Site} {nobody}', field('record.c2')),
      content: {
        ...says('{Site} {nobody}', field('record.c2')).content,
        button: { label: 'Go', url: 'https://x.example/?q={Site}' },
      },
    };
    expect([...filled(written, {}).empty].sort()).toEqual(['Humidity', 'Site']);
    const { content } = filled(written, { c1: 'a&b', c2: '1' });
    expect(content.title).toBe('a&b {nobody}');
    expect(content.button?.url).toBe('https://x.example/?q=a%26b');
  });

  it('shows what matched as a table, in order, with how many more there are, in every form a reader gets it', () => {
    const rows: Row[] = [
      ['North|x', '40'],
      ['East <i>', '58'],
      ['South', ''],
      ['West', '51'],
    ].map(([c1, c2], id) => ({ id, values: values({ c1: c1!, ...(c2 === '' ? {} : { c2: c2! }) }) }));
    const { content } = filled(
      {
        ...says('Past', { type: 'text', text: 'Look:' }),
        table: {
          columns: ['record.c1', 'record.c2'],
          order: { field: 'record.c2', descending: true },
          most: 2,
        },
      },
      {},
      rows,
    );
    const doc: Doc = content.sections[0]!.document;
    expect(documentText(doc)).toBe(
      'Look:\n\nSite      Humidity\nEast <i>  58%\nWest      51%\n\nand 2 more.',
    );
    const list = filled(
      {
        ...says('Past', { type: 'text', text: 'Look:' }),
        table: {
          as: 'list',
          columns: ['record.c1', 'record.c2'],
          order: { field: 'record.c2', descending: true },
          most: 3,
        },
      },
      {},
      rows,
    ).content.sections[0]!.document;
    expect(documentText(list)).toBe(
      'Look:\n\n- East <i>: Humidity 58%\n- West: Humidity 51%\n- North|x: Humidity 40%\n\nand 1 more.',
    );
    expect(documentHtml(doc)).toContain('<td><p>East &lt;i&gt;</p></td>');
    expect(markdownOf(doc)).toContain('| Site | Humidity |\n| --- | --- |\n');
  });
});

describe('the sentence', () => {
  const names = {
    group: () => 'Sant Elm',
    station: () => undefined,
    person: () => undefined,
    occurrence: () => undefined,
    board: () => 'Sant Elm',
    outside: () => undefined,
    sheet: () => 'Readings',
    sender: () => 'The welcome desk',
    source: () => undefined,
    hook: () => undefined,
    calendarSession: () => 'Thursday exchange',
  };

  it('reads as what will happen', () => {
    const joins = { kind: 'joins', groupId: 1 } as const;
    const welcome: Automation = {
      ...newAutomation('Welcome', joins),
      tell: {
        to: { kind: 'person' },
        boards: [4],
        outside: [],
        boardField: null,
        mail: true,
        otherwise: null,
      },
      due: { kind: 'hour', time: '08:30' },
      senderId: 2,
      content: says('Welcome').content,
    };
    expect(automationText(automationSentence(welcome, fieldsOf(joins, []), names))).toBe(
      'When somebody comes into Sant Elm, tell that person by inbox and mail, and on the board Sant Elm, at 08:30 their time, from The welcome desk, saying “Welcome”.',
    );
    expect(automationSchema.parse(JSON.parse(JSON.stringify(welcome)))).toEqual(welcome);
  });
});

describe('cells', () => {
  it('are kept in one form whatever was typed, and what is kept is read again as itself', () => {
    const kept = (kind: CellKind, text: string, unit = ''): string => {
      const read = readCell({ kind, unit, choices: ['Dry', 'Wet'] }, text);
      return 'value' in read ? read.value : `! ${read.problem}`;
    };
    expect(kept('number', '1,250.5 kg', 'kg')).toBe('1250.5');
    expect(kept('number', '12,5')).toBe('12.5');
    expect(kept('number', '−3')).toBe('-3');
    expect(kept('number', 'about 3')).toContain('is no number');
    expect(kept('yes or no', 'TRUE')).toBe('yes');
    expect(kept('choice', 'wet')).toBe('Wet');
    expect(kept('date', '2026-02-30')).toContain('is no date');
    expect(kept('moment', '2026-12-31 09:00')).toBe('2026-12-31T09:00Z');
    expect(kept('link', 'javascript:alert(1)')).toContain('is no link');
    fc.assert(
      fc.property(fc.constantFrom(...CELL_KINDS), fc.string({ maxLength: 30 }), (kind, text) => {
        const first = kept(kind, text);
        if (!first.startsWith('! ')) expect(kept(kind, first)).toBe(first);
      }),
    );
    const info: FieldInfo = { name: 'x', label: 'x', kind: 'number', unit: '°C', choices: [] };
    expect(cellWords(info, '-1.5', 'UTC')).toBe('-1.5°C');
  });

  it('handles are matched by stated rules and addresses keep their inputs apart', () => {
    expect(foldHandle(' @K.Ferro ')).toBe('k.ferro');
    expect(foldHandle('k+ferro')).not.toBe(foldHandle('kferro'));
    const withUrl = (url: string): boolean =>
      sourceSchema.safeParse({
        name: 'S',
        url,
        header: '',
        fields: [{ name: 'river', pointer: '/river', kind: 'number', unit: '' }],
        keepMinutes: 0,
      }).success;
    expect(withUrl('https://host.example/at?place={place}')).toBe(true);
    for (const url of [
      'https://{place}/x',
      'https://a.{place}?x',
      'https://me@host/x',
      'https://',
      'ftp://x/y',
    ])
      expect(withUrl(url), url).toBe(false);
    expect(inputsOf('https://x/{place}?at={hour}&p={place}')).toEqual(['place', 'hour']);
    expect(addressOf('https://x/{place}', new Map([['place', 'a/../b c']]))).toBe('https://x/a%2F..%2Fb%20c');
  });
});
