import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { listsIn, pointerLike } from '../../src/core/sheets/following.ts';
import { followingSchema, readAnswer } from '../../src/core/sheets/followingSchema.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';

const COLUMNS: SheetColumn[] = [
  { id: 'c1', name: 'Name', kind: 'text', unit: '', choices: [] },
  { id: 'c2', name: 'Packets', kind: 'number', unit: '', choices: [] },
  { id: 'c3', name: 'Notes', kind: 'text', unit: '', choices: [] },
];
const base = {
  url: 'https://records.example/all',
  header: '',
  everyMinutes: 5,
  rows: '/data/rows',
  key: '/id',
  gone: '',
  after: '',
  columns: { c1: '/of/name', c2: '/packets' },
};
const source = followingSchema.parse(base);
const read = (rows: unknown, part = {}) =>
  readAnswer(followingSchema.parse({ ...base, ...part }), COLUMNS, { data: { rows }, at: 7 });

describe('what a sheet follows', () => {
  it('is read by its pointers, cell by cell, whatever else is in the answer', () => {
    const rows = [
      { id: 1, of: { name: ' Ash ' }, packets: 3, more: [1] },
      { id: 'b', of: null, packets: '4,5' },
      { id: 'c', of: { name: ['no'] }, packets: true },
    ];
    expect(read(rows)).toEqual({
      rows: [
        { key: '1', gone: false, cells: { c1: 'Ash', c2: '3' } },
        { key: 'b', gone: false, cells: { c2: '4.5' } },
        { key: 'c', gone: false, cells: {} },
      ],
      after: null,
      warnings: ['Packets: 1 left empty, such as: “true” is no number. Write one such as 12.5.'],
    });
  });

  it('has each key once, the later row of two, and leaves out what has none', () => {
    fc.assert(
      fc.property(fc.array(fc.record({ id: fc.option(fc.nat(5)), packets: fc.nat() })), (rows) => {
        const keyed = rows.filter((row) => row.id !== null);
        const { rows: found, warnings } = read(rows);
        expect(new Map(found.map((row) => [row.key, row.cells.c2]))).toEqual(
          new Map(keyed.map((row) => [String(row.id), String(row.packets)])),
        );
        expect(warnings.length).toBe(keyed.length < rows.length ? 1 : 0);
      }),
    );
  });

  it('tells of a position and of what is gone where it is asked by one', () => {
    const part = { url: 'https://records.example/all?since={after}', after: '/at', gone: '/gone' };
    expect(read([{ id: 1, gone: true }, { id: 2 }], part)).toMatchObject({
      after: '7',
      rows: [{ gone: true }, { gone: false }],
    });
    const wrong = (given: object): string[] =>
      followingSchema.safeParse({ ...base, ...given }).error?.issues.map((issue) => issue.path.join('.')) ??
      [];
    expect(wrong({ url: part.url })).toEqual(['after']);
    expect(wrong({ after: '/at' })).toEqual(['url']);
    expect(wrong({ url: 'https://{after}.example/', after: '/at' })).toEqual(['url']);
    expect(wrong({ columns: {} })).toEqual(['columns']);
    expect(wrong({ key: '' })).toEqual(['key']);
  });

  it('says in words where there is no list, and never takes what is not the answer’s own', () => {
    expect(() => readAnswer(source, COLUMNS, { data: [] })).toThrow(/no list of rows at \/data\/rows/);
    expect(() => readAnswer(source, COLUMNS, '<html>')).toThrow(/no list of rows/);
    const sly = followingSchema.parse({ ...base, columns: { c1: '/constructor/name' } });
    expect(readAnswer(sly, COLUMNS, { data: { rows: [{ id: 1 }] } }).rows[0]?.cells).toEqual({});
  });

  it('is found in an answer: the longest list first, with what its rows hold, and a column by its name', () => {
    const lists = listsIn({
      few: [{ a: 1 }],
      meta: { all: [{ Of: { Name: '' } }, { Of: { Name: 'x' } }] },
      no: [1],
    });
    expect(lists.map((list) => [list.pointer, list.rows])).toEqual([
      ['/meta/all', 2],
      ['/few', 1],
    ]);
    expect(lists[0]?.values).toEqual([{ pointer: '/Of/Name', sample: 'x' }]);
    expect(listsIn([{ 'a/b': 1 }])[0]).toMatchObject({ pointer: '', values: [{ pointer: '/a~1b' }] });
    expect(pointerLike('Name', ['/id', '/of/name'])).toBe('/of/name');
    expect(pointerLike('Due by', ['/due_by'])).toBe('/due_by');
    expect(pointerLike('Notes', ['/id'])).toBeNull();
  });
});
