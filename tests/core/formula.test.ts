import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calculator, formulaProblems } from '../../src/core/sheets/formula.ts';
import { withIds, withNames } from '../../src/core/sheets/formulaNames.ts';
import { pasted } from '../../src/core/sheets/pasting.ts';
import { sheetSchema, type SheetColumn } from '../../src/core/sheets/sheet.ts';

const column = (id: string, name: string, kind: SheetColumn['kind'], formula?: string): SheetColumn => ({
  id,
  name,
  kind,
  unit: '',
  choices: kind === 'choice' ? ['small', 'large'] : [],
  ...(formula === undefined ? {} : { formula }),
});
const GIVEN = [
  column('c1', 'Station', 'text'),
  column('c2', 'Humidity', 'number'),
  column('c3', 'Limit', 'number'),
  column('c4', 'Lent on', 'date'),
  column('c5', 'Due back', 'date'),
  column('c6', 'Sealed', 'yes or no'),
  column('c7', 'Size', 'choice'),
  column('c8', 'Read at', 'moment'),
];
const CELLS = {
  c1: 'Fallow Point',
  c2: '44.1',
  c3: '49',
  c4: '2026-03-27',
  c5: '2026-04-03',
  c6: 'yes',
  c7: 'large',
  c8: '2026-03-29T00:30Z',
};

/** What a formula gives of those cells, written with the columns' names; or what is wrong with it. */
function gives(kind: SheetColumn['kind'], written: string, cells: Record<string, string> = CELLS): string {
  const read = withIds(written, GIVEN);
  if ('missing' in read) return `no column ${read.missing}`;
  const columns = [...GIVEN, column('c9', 'Result', kind, read.formula)];
  const [wrong] = formulaProblems(columns);
  return wrong ? `! ${wrong.problem}` : (calculator(columns)(cells).c9 ?? '');
}

describe('what a column is calculated by', () => {
  it.each([
    ['number', 'round([Humidity] / [Limit] * 100, 1)', '90'],
    ['number', '0.1 + 0.2', '0.3'],
    ['number', 'max([Humidity], [Limit]) - 2', '47'],
    ['number', 'days([Lent on], [Due back])', '7'],
    ['number', 'days([Lent on], date("2026-12-31"))', '279'],
    ['date', 'date("2026-02-30")', ''],
    ['date', 'date([Station])', ''],
    ['number', 'hours([Lent on], [Read at])', '48.5'],
    ['number', 'year([Lent on]) * 100 + month([Lent on])', '202603'],
    ['yes or no', '[Humidity] > [Limit] * 0.9', 'no'],
    ['yes or no', '[Sealed] && [Size] == "large"', 'yes'],
    ['yes or no', '[Due back] > [Lent on]', 'yes'],
    ['text', '[Humidity] >= 44 ? "look at " + [Station] : ""', 'look at Fallow Point'],
    ['text', "upper([Size]) + ' ' + text(round([Humidity], 0))", 'LARGE 44'],
    ['text', '"[Humidity] of 10, \\"c2\\""', '[Humidity] of 10, "c2"'],
    ['date', 'plusDays([Lent on], 14)', '2026-04-10'],
    ['moment', 'plusDays([Read at], 0.9)', '2026-03-29T00:30Z'],
    ['number', '-[Humidity]', '-44.1'],
  ] as const)('%s: %s is %s', (kind, written, result) => expect(gives(kind, written)).toBe(result));

  it('is empty where what it reads is empty, where it divides by nothing, and where it is no date', () => {
    expect(gives('number', '[Humidity] * 2', { ...CELLS, c2: '' })).toBe('');
    expect(gives('number', '[Humidity] * 2', { c2: 'forty' })).toBe('');
    expect(gives('text', '[Station] + "!"', {})).toBe('!');
    expect(gives('number', '[Humidity] / ([Limit] - 49)')).toBe('');
    expect(gives('date', 'plusDays([Lent on], 1000000000000)')).toBe('');
    expect(gives('date', 'plusDays([Lent on], 4000000)')).toBe('');
  });

  it.each([
    ['number', '[Humidity] + [Station]', /A number and text do not go with “\+”/],
    ['number', '[Humidity] *', /cannot be read/],
    ['text', '[Humidity] * 2', /gives a number, and the column holds text/],
    ['date', '[Humidity]', /gives a number, and the column holds a date/],
    ['choice', '[Size]', /What is calculated is text, number/],
    ['number', 'round([Station])', /round does not take text\. Write round\(number, digits\)/],
    ['number', 'c44 + 1', /“c44” is no column/],
    ['number', 'Humidity', /“Humidity” is no column.*square brackets/],
    ['text', '[Station].matches("(a+)+$") ? "a" : "b"', /no sum, comparison/],
    ['number', '[1, 2, 3].map(x, x)', /no column|no sum|no such/i],
    ['yes or no', '[Humidity] == null', /null/],
    ['text', 'fetch("http://x")', /There is no “fetch” here/],
    ['text', 'constructor', /“constructor” is no column/],
    ['number', '[Sealed] ? 1 : "a"', /of one kind/],
    ['number', '[Wetness] + 1', /no column Wetness/],
  ] as const)('%s: %s is refused', (kind, written, said) => expect(gives(kind, written)).toMatch(said));

  it('may read what is calculated, whatever the order of the columns, and never goes in a circle', () => {
    const columns = [
      column('c1', 'Doubled twice', 'number', 'c2 * 2'),
      column('c2', 'Doubled', 'number', 'c3 * 2'),
      column('c3', 'Given', 'number'),
    ];
    expect(formulaProblems(columns)).toEqual([]);
    expect(calculator(columns)({ c1: '1', c2: '1', c3: '3' })).toEqual({ c1: '12', c2: '6', c3: '3' });
    const round = [columns[0]!, column('c2', 'Doubled', 'number', 'c1 * 2'), columns[2]!];
    expect(formulaProblems(round)).toEqual([
      {
        at: 0,
        problem: expect.stringMatching(
          /“Doubled twice” and “Doubled” are calculated from each other/,
        ) as string,
      },
    ]);
    expect(formulaProblems([column('c1', 'Own', 'number', 'c1 + 1')])[0]?.problem).toMatch(/from itself/);
    // What is in a circle by a fault of its keeper stays empty, and is not calculated for ever.
    expect(calculator(round)({ c1: '1', c3: '3' })).toEqual({ c3: '3' });
  });

  it('answers anything at all in words, and soon', () => {
    const piece = fc.constantFrom(
      'c2',
      'c1',
      '1',
      '2.5',
      '(',
      ')',
      '+',
      '*',
      '"a"',
      '?',
      ':',
      'round',
      ',',
      '[',
      '.',
      'c6',
      '&&',
      '!',
      '{',
      '\\',
      "'",
      '…',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 60 }), (parts) => {
        const columns = [...GIVEN, column('c9', 'Result', 'number', parts.join(' ') || '1')];
        const problems = formulaProblems(columns);
        const value = calculator(columns)(CELLS).c9;
        expect(problems.every(({ problem }) => problem.length > 10)).toBe(true);
        expect(value === undefined || (problems.length === 0 && Number.isFinite(Number(value)))).toBe(true);
      }),
      { numRuns: 500 },
    );
    expect(gives('number', `${'('.repeat(200)}1${')'.repeat(200)}`)).toMatch(/^!/);
    expect(gives('number', Array.from({ length: 240 }, () => '1').join('+'))).toMatch(/^!|^240$/);
  });

  it('is read with the names of its columns and kept with their ids, whatever they are renamed to', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('c2', 'c3', ' + ', '"c2 [Limit] 3"', ' * 12 ', '(', ')'), { maxLength: 20 }),
        (parts) => {
          const formula = parts.join(' ').trim();
          expect(withIds(withNames(formula, GIVEN), GIVEN)).toEqual({ formula });
        },
      ),
    );
    expect(
      withNames('c2 / c3', [
        { ...GIVEN[1]!, name: 'Moisture' },
        { ...GIVEN[2]!, name: 'Odd [name]' },
      ]),
    ).toBe('[Moisture] / c3');
    expect(withIds('[ humidity ] * 2', GIVEN)).toEqual({ formula: 'c2 * 2' });
  });

  it('is not asked for by a form, and not written over by what is pasted', () => {
    const columns = [GIVEN[1]!, column('c9', 'Twice', 'number', 'c2 * 2')];
    const shape = { name: 'Vault', purpose: '', columns };
    const form = {
      open: false,
      intro: '',
      thanks: '',
      fields: [{ column: 'c9', help: '', required: false }],
    };
    expect(sheetSchema.safeParse({ ...shape, form: null }).success).toBe(true);
    expect(sheetSchema.safeParse({ ...shape, form }).error?.issues[0]?.message).toMatch(/calculated/);
    const own = () => true;
    const record = { id: 7, cells: { c2: '4', c9: '8' } };
    expect(
      pasted(
        [
          ['5', '8'],
          ['6', '99'],
        ],
        columns,
        [record],
        own,
      ),
    ).toEqual({
      change: [{ record: 7, cells: { c2: '5' }, was: { c2: '4' } }],
      add: [{ c2: '6' }],
    });
    expect(pasted([['5', '9']], columns, [record], own)).toEqual({
      problems: [{ row: 1, detail: 'Twice is calculated: change what it is calculated from.' }],
    });
  });
});
