import fc from 'fast-check';
import { parse } from 'vcard4';
import { describe, expect, it } from 'vitest';
import { readCards, writeCard } from '../../src/core/imports/cards.ts';
import { columnsProblem, guessColumns, type Column } from '../../src/core/imports/columns.ts';
import { Comparison, type Known } from '../../src/core/imports/comparing.ts';
import { decode, readList, UnreadableList } from '../../src/core/imports/reading.ts';
import { checkRecord, dateOf, dateOrderOf, rawRecord, recordsFrom } from '../../src/core/imports/record.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

describe('reading a list', () => {
  it('reads any usual separator, quotes, line ends and blank lines, and keeps the row of each line', () => {
    const table = readList(
      bytes('Name;Mail\r\n"Ada; the ""first""";ada@x.example\r\n;;\r\n\r\nBo;bo@x.example'),
    );
    expect(table).toMatchObject({
      kind: 'CSV',
      separator: ';',
      headings: ['Name', 'Mail'],
      guess: ['name', 'mail'],
    });
    expect(table.rows).toEqual([
      { line: 2, cells: ['Ada; the "first"', 'ada@x.example'] },
      { line: 5, cells: ['Bo', 'bo@x.example'] },
    ]);
    expect(readList(bytes('Name\tMail\nAda\ta@x.example')).separator).toBe('\t');
    // Two columns, an empty line among them and one at the end.
    for (const separator of [';', '\t', ',', '|']) {
      const short = readList(
        bytes(['Name;Badge', 'Ada;A-1', '', 'Bo;B-2', ''].join('\r\n').replaceAll(';', separator)),
      );
      expect([short.separator, short.headings]).toEqual([separator, ['Name', 'Badge']]);
      expect(short.rows).toEqual([
        { line: 2, cells: ['Ada', 'A-1'] },
        { line: 4, cells: ['Bo', 'B-2'] },
      ]);
    }
  });

  it('reads UTF-8 and UTF-16 with their marks and older encodings without one', () => {
    const text = 'Name,Occupation\nZoë Müller,Gärtnerin für Äpfel\nJosé Núñez,señor mañana\n';
    const utf16 = new Uint8Array([
      0xff,
      0xfe,
      ...new Uint8Array(new Uint16Array(Array.from(text, (c) => c.charCodeAt(0))).buffer),
    ]);
    expect(decode(utf16).text).toBe(text);
    expect(decode(new Uint8Array([0xef, 0xbb, 0xbf, ...bytes(text)])).text).toBe(text);
    expect(decode(bytes(text))).toEqual({ text, encoding: 'utf-8' });
    const latin = Uint8Array.from(Array.from(text, (c) => c.charCodeAt(0)));
    expect(decode(latin).text).toBe(text);
  });

  it('says what is wrong with what is no list', () => {
    for (const [text, words] of [
      ['', 'empty'],
      ['PK\u0003\u0004stuff', 'Save the sheet as CSV'],
      ['Name,Mail\n', 'no rows'],
      ['Name,Mail\n"Ada,a@x.example\n', 'quotation mark'],
    ] as const)
      expect(() => readList(bytes(text))).toThrow(new RegExp(words));
    expect(() => readList(bytes(`${'a,'.repeat(300)}\n1,2`))).toThrow(UnreadableList);
  });

  it('guesses columns by heading, and without headings by what they hold, each field once', () => {
    expect(guessColumns(['Vorname', 'Nachname', 'E-Mail', 'e-mail 2', 'Licence'], [])).toEqual([
      'given',
      'family',
      'mail',
      'nothing',
      'nothing',
    ]);
    const table = readList(bytes('Ada Ames,ada@x.example,Europe/London\nBo Berg,bo@x.example,Europe/Oslo'));
    expect(table).toMatchObject({ named: false, guess: ['name', 'mail', 'zone'] });
    expect(table.rows).toHaveLength(2);
    expect(columnsProblem(['given', 'mail'])).toContain('family name');
    expect(columnsProblem(['name', 'mail', 'mail'])).toContain('Two columns');
    expect(columnsProblem(['name', 'attribute:Licence', 'nothing', 'nothing'])).toBeNull();
  });

  it('writes cards that another reader of the standard understands, and reads its own back', () => {
    const word = fc
      .string({ unit: 'grapheme', minLength: 1, maxLength: 20 })
      .map((text) => text.replace(/[\p{Cc}\p{Zl}\p{Zp}]/gu, '').trim())
      .filter((text) => text !== '');
    fc.assert(
      fc.property(word, word, word, (name, station, occupation) => {
        const card = {
          uid: 'urn:x:1',
          name,
          sortName: 'Lovelace, Ada',
          greeting: 'Ada',
          mail: 'a@x.example',
          organisation: 'Network',
          station,
          occupation,
          zone: 'Europe/Oslo',
        };
        expect(readCards(writeCard(card)).rows[0]?.cells).toEqual([
          name,
          'Lovelace, Ada',
          'Ada',
          'a@x.example',
          station,
          occupation,
          'Europe/Oslo',
        ]);
      }),
    );
    const card = writeCard({
      uid: 'urn:x:1',
      name: 'Ada, the first',
      sortName: '',
      greeting: '',
      mail: 'a@x.example',
      organisation: 'The Network',
      station: 'North; East',
      occupation: '',
      zone: 'Europe/Oslo',
    });
    const value = (name: string): unknown =>
      (parse(card) as unknown as { getProperty: (name: string) => { value: unknown }[] }).getProperty(name)[0]
        ?.value;
    expect(value('FN')).toBe('Ada, the first');
    expect(value('ORG')).toEqual(['The Network', 'North; East']);
  });
});

describe('what a row says', () => {
  const columns: Column[] = ['given', 'family', 'mail', 'zone', 'joinedOn', 'attribute:Licence'];
  it('is put together and made plain; an empty cell says nothing', () => {
    const raw = rawRecord([' Ada ', 'Ames\u00a0', ' Ada@X.example ', '', '03/04/2024', ' B '], columns, 7);
    expect(checkRecord(raw, 'day first')).toEqual({
      record: {
        line: 7,
        name: 'Ada Ames',
        sortName: 'Ames, Ada',
        mail: 'ada@x.example',
        joinedOn: '2024-04-03',
        attributes: { Licence: 'B' },
      },
    });
  });
  it('is sent in parts that fit into a request, each row once, however long rows are', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 400 }), { minLength: 1, maxLength: 40 }), (cells) => {
        const rows = cells.map((cell, at) => ({ line: at + 1, cells: [cell] }));
        const parts: number[][] = [];
        for (let from = 0; from < rows.length;) {
          const part = recordsFrom(rows, ['name'], from, 7, 500);
          if (part.length > 1) expect(JSON.stringify(part).length).toBeLessThan(500 + 20);
          parts.push(part.map((record) => record.line));
          from += part.length;
        }
        expect(parts.flat()).toEqual(rows.map((row) => row.line));
        expect(Math.max(...parts.map((part) => part.length))).toBeLessThanOrEqual(7);
      }),
    );
  });
  it('names every field that is wrong, with its remedy', () => {
    const checked = checkRecord(
      {
        line: 1,
        name: ' \u200b',
        mail: 'no address',
        zone: 'Mars/Base',
        joinedOn: '31/02/2024',
        occupation: 'x'.repeat(81),
      },
      'day first',
    );
    expect(checked).toMatchObject({ problems: expect.objectContaining({ length: 5 }) as unknown });
  });
  it('reads dates by the order they show', () => {
    expect(dateOrderOf(['01/02/2024', '01/13/2024'])).toBe('month first');
    expect(dateOrderOf(['01/02/2024', '13.1.2024'])).toBe('day first');
    expect(dateOrderOf(['01/02/2024', ''])).toBeNull();
    expect(dateOf('2/3/2024', 'month first')).toBe('2024-02-03');
    expect(dateOf('2024-02-30', 'day first')).toBeNull();
    expect(dateOf('2024-02-29T10:00', 'day first')).toBe('2024-02-29');
  });
});

const known = (id: number, name: string, mail: string | null, part: Partial<Known> = {}): Known => ({
  id,
  name,
  sortName: '',
  greeting: '',
  mail,
  furtherMail: [],
  station: null,
  occupation: '',
  zone: 'UTC',
  joinedOn: '2020-01-01',
  guestUntil: null,
  left: false,
  contact: false,
  attributes: {},
  ...part,
});
const row = (line: number, name: string, mail?: string) => ({
  line,
  name,
  ...(mail === undefined ? {} : { mail }),
  attributes: {},
});

describe('comparing with the directory', () => {
  const directory = [
    known(1, 'Ada Ames', 'ada@x.example'),
    known(2, 'Bo Berg', null),
    known(3, 'Cy Court', 'cy@x.example'),
    known(4, 'Cy Court', 'cy2@x.example'),
    known(5, 'Di Dale', 'di@x.example', { left: true }),
    known(6, 'Mother Ames', 'mother@x.example', { contact: true }),
  ];
  const outcome = (...args: Parameters<Comparison['outcomeOf']>) =>
    new Comparison(directory).outcomeOf(...args);

  it('tells people by their address, else by a name that only one has', () => {
    expect(outcome(row(1, 'Ada Ames', 'ada@x.example'), null)).toMatchObject({ kind: 'same', personId: 1 });
    expect(outcome(row(1, 'Ada Ames Lund', 'ada@x.example'), null)).toMatchObject({
      kind: 'changed',
      changes: [{ what: 'name', from: 'Ada Ames', to: 'Ada Ames Lund' }],
    });
    expect(outcome(row(1, 'BO BERG', 'bo@x.example'), null)).toMatchObject({ kind: 'changed', personId: 2 });
    expect(outcome(row(1, 'Di Dale'), null)).toMatchObject({ kind: 'returns', personId: 5 });
    expect(outcome(row(1, 'Eve East'), null)).toMatchObject({ kind: 'new', personId: null });
    // Of two of one name, a row without an address is about the one who has none.
    const two = new Comparison([...directory, known(7, 'Ada Ames', null)]);
    expect(two.outcomeOf(row(1, 'Ada Ames'), null)).toMatchObject({ kind: 'same', personId: 7 });
  });

  it('leaves to a person what could be meant otherwise, and does as they decide', () => {
    expect(outcome(row(1, 'Zed Zorn', 'ada@x.example'), null)).toMatchObject({
      kind: 'clash',
      choices: ['same person', 'leave out'],
    });
    expect(outcome(row(1, 'Ada Ames', 'other@x.example'), null)).toMatchObject({
      kind: 'clash',
      personId: 1,
    });
    expect(outcome(row(1, 'Ada Ames', 'other@x.example'), 'same person')).toMatchObject({
      kind: 'changed',
      personId: 1,
    });
    expect(outcome(row(1, 'Ada Ames', 'other@x.example'), 'new person')).toMatchObject({ kind: 'new' });
    expect(outcome(row(1, 'Cy Court'), 'same person')).toMatchObject({ kind: 'clash' });
    expect(outcome(row(1, 'Mother Ames', 'mother@x.example'), null)).toMatchObject({ kind: 'wrong' });
  });

  it('never makes two rows one person, nor one address two people’s', () => {
    const comparison = new Comparison(directory);
    comparison.outcomeOf(row(1, 'Eve East', 'eve@x.example'), null);
    expect(comparison.outcomeOf(row(2, 'Eve East', 'eve@x.example'), null)).toMatchObject({ kind: 'wrong' });
    comparison.outcomeOf(row(3, 'Bo Berg'), null);
    expect(comparison.outcomeOf(row(4, 'Bo Berg'), null)).toMatchObject({
      kind: 'wrong',
      why: expect.stringContaining('Row 3') as unknown,
    });
    const names = fc.constantFrom('Ada Ames', 'Bo Berg', 'Cy Court', 'Eve East', 'ada ames');
    const mails = fc.constantFrom(undefined, 'ada@x.example', 'cy@x.example', 'eve@x.example');
    const decisions = fc.constantFrom(null, 'same person' as const, 'new person' as const);
    fc.assert(
      fc.property(fc.array(fc.tuple(names, mails, decisions), { maxLength: 12 }), (given) => {
        const found = new Comparison(directory);
        const outcomes = given.map(([name, mail, decision], at) => ({
          ...found.outcomeOf(row(at + 1, name, mail), decision),
          mail,
        }));
        const used = outcomes
          .filter((each) => ['changed', 'same', 'returns'].includes(each.kind))
          .map((each) => each.personId);
        expect(new Set(used).size).toBe(used.length);
        const addresses = outcomes.flatMap((each) =>
          ['new', 'changed'].includes(each.kind) && each.mail !== undefined ? [each.mail] : [],
        );
        expect(new Set(addresses).size).toBe(addresses.length);
        const held = directory.filter(
          (each) =>
            each.mail !== null && outcomes.some((one) => one.kind === 'new' && one.mail === each.mail),
        );
        expect(held).toEqual([]);
      }),
    );
  });
});
