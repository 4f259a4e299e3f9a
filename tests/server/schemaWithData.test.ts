import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { stemOf } from '../../src/core/search/query.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import * as stems from '../../src/server/database/migrations/0071_word_stems.ts';
import * as chaseKeys from '../../src/server/database/migrations/0072_chase_keys.ts';
import * as chaseSends from '../../src/server/database/migrations/0073_chase_sends.ts';
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
    await chaseKeys.down(db);
    expect(await places()).toEqual(['', `c${id.toString(36)}.1`, `c${id.toString(36)}.2`]);
    await chaseKeys.up(db);
    expect(await kept()).toEqual(before);
  });
});

describe('the sends of chases', () => {
  it('are made from the occurrences they were before, and become those again', async () => {
    const group = await addGroup(db, 'Both', await addPeople(db, 2, 2));
    const id = await sendNow(db, {
      audience: { kind: 'group', id: group },
      ask: acknowledgement({ statement: 'I agree.', chase: { ...USUAL_CHASE, most: 2 } }),
    });
    const sends = async () =>
      (
        await rows<{ id: number; chases: number | null; chasesFromNow: number | null; plan: string }>(
          db,
          `SELECT id, kind, chases, chase_send_id AS chasesFromNow, announcement_id, version_id, created_by, plan, state, to_one
           FROM sends ORDER BY COALESCE(chases, id), chases IS NOT NULL`,
        )
      ).map(({ id: sendId, chasesFromNow, plan, ...rest }) => ({
        ...rest,
        // Brought back by the migration it is another row: which send follows which is what is held.
        ...(rest.chases === null ? { id: sendId } : {}),
        chased: chasesFromNow !== null,
        plan: JSON.parse(plan) as unknown,
      }));
    const belongs = () =>
      rows<{
        kind: string;
        base: number;
        recursAt: string | null;
        key: string | null;
        text: number;
        sends: number;
      }>(
        db,
        `SELECT s.kind, COALESCE(s.chases, s.id) AS base, o.recurs_at AS recursAt, o.chase_key AS \`key\`,
           o.version_id = s.version_id AS text, (SELECT COUNT(*) FROM sends) AS sends
         FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.id = ? OR o.chases = ? ORDER BY o.id`,
        [id, id],
      );
    const before = { sends: await sends(), belongs: await belongs() };
    expect(before.belongs.map(({ kind, text }) => [kind, text])).toEqual([
      ['send', 1],
      ['chase', 1],
      ['chase', 1],
    ]);
    expect(new Set(before.belongs.map(({ base }) => base)).size).toBe(1);
    await chaseSends.down(db);
    const [old] = await rows<{ sends: number; kinds: number; texts: number }>(
      db,
      `SELECT COUNT(DISTINCT o.send_id) AS sends, COUNT(DISTINCT s.kind) AS kinds, COUNT(DISTINCT s.chase_version_id) AS texts
       FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.id = ? OR o.chases = ?`,
      [id, id],
    );
    expect(old).toEqual({ sends: 1, kinds: 1, texts: 1 });
    await chaseSends.up(db);
    expect({ sends: await sends(), belongs: await belongs() }).toEqual(before);
  });
});
