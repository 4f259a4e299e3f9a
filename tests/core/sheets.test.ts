import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Condition } from '../../src/core/automation/condition.ts';
import { looksLikeJson, readJsonRecords } from '../../src/core/sheets/json.ts';
import { changeOf, opposite, pasted, pastedCells } from '../../src/core/sheets/pasting.ts';
import type { Cells, SheetColumn } from '../../src/core/sheets/sheet.ts';
import { fitted, viewWords, WHOLE } from '../../src/core/sheets/view.ts';

const column = (id: string, name: string, kind: SheetColumn['kind'] = 'text', unit = ''): SheetColumn => ({
  id,
  name,
  kind,
  unit,
  choices: [],
});
const COLUMNS = [
  column('c1', 'Vault'),
  column('c2', 'Humidity', 'number', '%'),
  column('c3', 'Read on', 'date'),
];
const record = (id: number, cells: Cells) => ({ id, cells });
const anything = (): boolean => true;

describe('cells that are pasted', () => {
  it('are read as a spreadsheet puts them on the clipboard', () => {
    expect(pastedCells('Oru\t41\r\n"two\nlines"\t"with ""quotes"""\r\n')).toEqual([
      ['Oru', '41'],
      ['two\nlines', 'with "quotes"'],
    ]);
    expect(pastedCells('alone')).toEqual([['alone']]);
  });

  it('go over records from one on, and what goes beyond the last is added', () => {
    const result = pasted(
      [
        ['Oru', '41,5 %'],
        ['', ''],
        ['Tarn', ''],
      ],
      COLUMNS,
      [record(7, { c1: 'Oru', c2: '40' }), record(8, { c1: 'Sant', c2: '39', c3: '2026-01-02' })],
      anything,
    );
    expect(result).toEqual({
      // What is the same is no change; an empty cell empties.
      change: [
        { record: 7, cells: { c2: '41.5' }, was: { c2: '40' } },
        { record: 8, cells: { c1: '', c2: '' }, was: { c1: 'Sant', c2: '39' } },
      ],
      add: [{ c1: 'Tarn' }],
    });
  });

  it('are refused whole, each with its row, where one cannot be kept', () => {
    expect(
      pasted(
        [['Oru', 'wet'], ['x'], ['y']],
        COLUMNS,
        [record(1, {}), null, record(3, { c1: 'z' })],
        (id) => id !== 3,
      ),
    ).toEqual({
      problems: [
        { row: 1, detail: 'Humidity: “wet” is no number. Write one such as 12.5.' },
        { row: 2, detail: 'The record in this place was deleted meanwhile.' },
        { row: 3, detail: 'Vault comes from the source that the sheet follows: change it there.' },
      ],
    });
    expect(pasted([['1', '2', '3', '4']], COLUMNS, [], anything)).toMatchObject({
      problems: [{ detail: expect.stringContaining('4 columns wide') as unknown }],
    });
  });

  it('taken back, leave every record as it was, whatever was pasted', () => {
    const cells = fc.dictionary(fc.constantFrom('c1', 'c2'), fc.stringMatching(/^[1-9]\d{0,3}$/));
    fc.assert(
      fc.property(
        fc.array(cells, { maxLength: 6 }),
        fc.array(fc.tuple(fc.stringMatching(/^[a-z ]{0,4}$/), fc.stringMatching(/^\d{0,4}$/)), {
          maxLength: 8,
        }),
        (held, lines) => {
          const before = held.map((each, i) => record(i + 1, each));
          const result = pasted(lines, COLUMNS, before, anything);
          if ('problems' in result) throw new Error('These can all be kept');
          const now = new Map(before.map((each) => [each.id, { ...each.cells }]));
          const write = (changes: typeof result.change): void =>
            changes.forEach(({ record: id, cells: to, was }) => {
              const found = now.get(id)!;
              for (const [key, value] of Object.entries(was)) expect(found[key] ?? '').toBe(value);
              Object.assign(found, to);
            });
          write(result.change);
          lines.slice(0, held.length).forEach(([text, number], i) => {
            expect(now.get(i + 1)!.c1 ?? '').toBe(text.trim());
            expect(now.get(i + 1)!.c2 ?? '').toBe(number === '' ? '' : String(Number(number)));
          });
          // Nothing is lost and nothing doubled: each line went over a record, was added, or was empty.
          expect(result.add.length).toBe(
            lines.slice(held.length).filter((line) => line.some((cell) => cell.trim() !== '')).length,
          );
          write(result.change.map(opposite));
          for (const { id, cells: was } of before)
            for (const key of ['c1', 'c2']) expect(now.get(id)![key] ?? '').toBe(was[key] ?? '');
        },
      ),
    );
  });

  it('know what was in a cell that one writes into', () => {
    expect(changeOf(record(4, { c1: 'a' }), { c1: 'b', c2: '1' })).toEqual({
      record: 4,
      cells: { c1: 'b', c2: '1' },
      was: { c1: 'a', c2: '' },
    });
  });
});

describe('records from JSON', () => {
  it('have the names of their members for headings, and what one lacks is empty', () => {
    expect(readJsonRecords('{"page": 1, "items": [{"a": "x", "n": 1.5}, {"b": true, "a": null}]}')).toEqual({
      headings: ['a', 'n', 'b'],
      rows: [
        { line: 1, cells: ['x', '1.5', ''] },
        { line: 2, cells: ['', '', 'yes'] },
      ],
    });
    expect(readJsonRecords('[]')).toEqual({ headings: [], rows: [] });
    expect([looksLikeJson(' [{'), looksLikeJson('a,b')]).toEqual([true, false]);
  });

  it.each([
    ['[{"a": 1},', /^This is no JSON/],
    ['{"a": 1}', /no list of records/],
    ['[{"a": 1}, 7]', /^Record 2 is no object/],
    ['[{"a": [1]}]', /^“a” of record 1 holds a list/],
    ['[{"a": {}}]', /holds an object/],
  ])('are refused in words: %s', (text, words) => {
    expect(() => readJsonRecords(text)).toThrow(words);
  });
});

describe('a view', () => {
  it('is read as a sentence', () => {
    const over: Condition = {
      kind: 'test',
      field: 'record.c2',
      test: 'is over',
      against: { kind: 'value', value: '40' },
    };
    const view = {
      if: { kind: 'all' as const, of: [over] },
      order: [
        { column: 'c2', turned: true },
        { column: 'changed', turned: false },
      ],
      hidden: ['c3'],
    };
    expect(viewWords(view, COLUMNS)).toEqual({
      which: 'those of which Humidity is over 40%',
      order: 'by Humidity backwards, then by when they were changed',
      columns: 'all columns but Read on',
    });
    expect(viewWords(WHOLE, COLUMNS)).toEqual({
      which: 'all records',
      order: 'the newest first',
      columns: 'every column',
    });
    // A column that was taken out is no longer ordered by; what tests it stays to be seen.
    expect(fitted(view, [COLUMNS[0]!])).toEqual({
      ...view,
      order: [{ column: 'changed', turned: false }],
      hidden: [],
    });
  });
});
