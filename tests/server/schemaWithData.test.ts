import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { stemOf } from '../../src/core/search/query.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import * as stems from '../../src/server/database/migrations/0071_word_stems.ts';
import { down, up } from '../../src/server/database/migrations/0072_chase_keys.ts';
import { addGroup, addPeople, freshDatabase, sendNow } from './world.ts';

let db: Database;
beforeAll(async () => ({ db } = await freshDatabase('schemawithdata')));
afterAll(() => db.destroy());

describe('the stems of words', () => {
  it('are added to the words that are there, as those of new words are', async () => {
    await stems.down(db);
    await db('search_words').insert(
      [
        'policies',
        'policy',
        'news',
        'größe',
        '2026',
        ...Array.from({ length: 1_500 }, (_, i) => `w${i}`),
      ].map((word) => ({ word })),
    );
    // Beyond the first thousand, which are read at once.
    await db('search_words').insert({ word: 'meetings' });
    await stems.up(db);
    const found = await rows<{ word: string; stem: string | null }>(
      db,
      "SELECT word, stem FROM search_words WHERE word NOT LIKE 'w%'",
    );
    expect(found).toHaveLength(6);
    for (const { word, stem } of found) expect(stem).toBe(stemOf(word));
  });
});

describe('the keys of chases', () => {
  it('are taken from where they stood before, and put back there', async () => {
    const group = await addGroup(db, 'All', await addPeople(db, 3, 1));
    const id = await sendNow(db, {
      audience: { kind: 'group', id: group },
      ask: acknowledgement({ chase: { ...USUAL_CHASE, most: 2 } }),
    });
    const kept = () => rows(db, 'SELECT * FROM occurrences WHERE id = ? OR chases = ? ORDER BY id', [id, id]);
    /** The times that the rule gave, in the order in which they were planned. */
    const places = async (): Promise<unknown[]> =>
      (
        await rows(db, 'SELECT recurs_at AS at FROM occurrences WHERE id = ? OR chases = ? ORDER BY id', [
          id,
          id,
        ])
      ).map((row) => (row as { at: string | null }).at);
    const before = await kept();
    expect(before).toHaveLength(3);
    expect(await places()).toEqual(['', null, null]);
    await down(db);
    expect(await places()).toEqual(['', `c${id.toString(36)}.1`, `c${id.toString(36)}.2`]);
    await up(db);
    expect(await kept()).toEqual(before);
  });
});
