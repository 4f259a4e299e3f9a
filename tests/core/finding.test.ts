import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { digestDue } from '../../src/core/notices/notice.ts';
import {
  extractAround,
  marked,
  stemOf,
  wanted,
  wantedAny,
  weights,
  wordsIn,
} from '../../src/core/search/query.ts';
import { dayAfter, wallAt } from '../../src/core/timing/wallTime.ts';

describe('the words of a search', () => {
  it('are letters and digits without accents, each once', () => {
    expect(wordsIn('Núria’s 15 % — ÆTHER!')).toEqual(['nuria', '15', 'æther']);
    expect(wanted('Key key KEYS a')).toEqual(['key', 'keys']);
    expect(wantedAny('Who can get the vault keys?')).toEqual(['vault', 'keys']);
  });

  it('have in English the stem of their forms; short ones and those of other alphabets have none', () => {
    const stems = (words: string): (string | null)[] => [...new Set(wordsIn(words).map(stemOf))];
    expect(stems('policy policies')).toHaveLength(1);
    expect(stems('meeting meetings meets')).toHaveLength(1);
    expect(stems('closed closing closes close')).toHaveLength(1);
    expect(stems('vault seed')).toHaveLength(2);
    expect(stems('key keys')).toHaveLength(1);
    expect(stems('to be')).toEqual([null]);
    expect(stems('news new')).toHaveLength(2);
    expect(stems('Größen 鍵 кнопки 2026')).toEqual([null]);
    // Another form of a word looked for is marked as the word is, and the extract is cut around it.
    expect(marked('One policy, three meetings', ['policies', 'meet'])).toEqual([
      'One ',
      'policy',
      ', three ',
      'meetings',
      '',
    ]);
    expect(extractAround(`${'here and there '.repeat(60)}policy`, ['policies'])).toContain('policy');
  });

  it('weigh most in a title, and more where they come again, up to a limit', () => {
    const found = weights('Vault key', 'The key, a key and the key; key, key and key.');
    expect(found.get('vault')).toBe(8);
    expect(found.get('key')).toBe(12);
    expect(found.get('the')).toBe(2);
  });

  it('are found also where no spaces stand between them, and marks that make another letter stay', () => {
    expect(wordsIn('金庫の鍵を返す')).toContain('鍵');
    expect(wordsIn('が')).not.toEqual(wordsIn('か'));
    expect(wordsIn('кий')).not.toEqual([]);
    // Thai: "the meeting is tomorrow" has several words, and its vowel signs are kept.
    const thai = wordsIn('ประชุมพรุ่งนี้');
    expect(thai).toContain('ประชุม');
    expect(thai.length).toBeGreaterThan(1);
    // Composed or not, with its accent or without it, it is the same word.
    for (const written of ['Núria', 'Nu\u0301ria', 'NURIA']) expect(wordsIn(written)).toEqual(['nuria']);
    expect(wordsIn('שָׁלוֹם')).toEqual(wordsIn('שלום'));
    expect(marked('金庫の鍵を返す', ['鍵'])).toEqual(['金庫の', '鍵', 'を返す']);
  });

  it('marking a text loses nothing of it, and marks whole words that begin as is looked for', () => {
    expect(marked('The Keys of Núria', ['key', 'nuri'])).toEqual(['The ', 'Keys', ' of ', 'Núria', '']);
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.array(fc.string({ minLength: 1 })), (text, words) => {
        const pieces = marked(text, words.flatMap(wordsIn));
        expect(pieces.join('')).toBe(text);
        expect(pieces.length % 2).toBe(1);
      }),
    );
  });

  it('an extract holds the word it was found by, and is cut at words', () => {
    const long = `${'here and there '.repeat(60)}needle ${'over and out '.repeat(60)}`;
    const extract = extractAround(long, ['needle']);
    expect(extract).toContain('needle');
    expect(extract.length).toBeLessThan(200);
    expect(extract.startsWith('… ')).toBe(true);
    expect(extractAround('short', ['x'])).toBe('short');
  });
});

describe('a daily digest', () => {
  it('goes at the first coming of its hour after what it gathers, on the clock of the reader', () => {
    const due = (iso: string, zone: string, at: string): string =>
      new Date(digestDue(Date.parse(iso), zone, at)).toISOString();
    expect(due('2026-11-25T10:00:00Z', 'Europe/London', '17:00')).toBe('2026-11-25T17:00:00.000Z');
    expect(due('2026-11-25T17:00:00Z', 'Europe/London', '17:00')).toBe('2026-11-26T17:00:00.000Z');
    expect(due('2026-11-25T10:00:00Z', 'Asia/Kathmandu', '17:00')).toBe('2026-11-25T11:15:00.000Z');
    // The clock goes forward over 02:30 in London on 29 March 2026: an hour later.
    expect(due('2026-03-29T00:10:00Z', 'Europe/London', '01:30')).toBe('2026-03-29T01:30:00.000Z');
    fc.assert(
      fc.property(
        fc.integer({ min: Date.UTC(2026, 0), max: Date.UTC(2027, 0) }),
        fc.constantFrom('Pacific/Auckland', 'America/Denver', 'Australia/Adelaide', 'Pacific/Honolulu'),
        (sinceMs, zone) => {
          const at = digestDue(sinceMs, zone, '17:00');
          expect(at).toBeGreaterThan(sinceMs);
          expect(at - sinceMs).toBeLessThanOrEqual(25 * 3_600_000);
          expect(wallAt(at, zone).slice(11)).toBe('17:00');
        },
      ),
    );
    expect(dayAfter('2028-02-28')).toBe('2028-02-29');
  });
});
