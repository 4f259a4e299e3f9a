import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { coordinator, countOf, demoDatabase } from './world.ts';
import { runSheet } from '../../src/server/sends/runSheet.ts';

const databases: Database[] = [];

async function loaded(name: string): Promise<Database> {
  const { db } = await demoDatabase(`demo_${name}`);
  databases.push(db);
  return db;
}

let db: Database;
/** Before it was loaded: what comes due while that lasts waits for an engine, of which there is none here. */
const begun = new Date();
beforeAll(async () => {
  db = await loaded('one');
});
afterAll(() => Promise.all(databases.map((each) => each.destroy())));

describe('the demo organisation', () => {
  it('has nine stations, two hundred and forty people, and every hard case among them', async () => {
    expect(await countOf(db, 'FROM stations')).toBe(9);
    expect(await countOf(db, 'FROM people WHERE linked_to IS NULL')).toBe(240);
    expect(await countOf(db, 'FROM people WHERE linked_to IS NOT NULL')).toBeGreaterThan(5);
    for (const condition of [
      'mail IS NULL',
      "standing = 'left' AND left_at IS NOT NULL",
      "standing = 'on leave'",
      'mail_stopped_at IS NOT NULL',
      "name NOT LIKE '% %'",
      "name REGEXP '[\\\\x{0590}-\\\\x{06FF}]'",
      'joined_on > UTC_DATE() - INTERVAL 60 DAY',
    ])
      expect(await countOf(db, `FROM people WHERE ${condition}`), condition).toBeGreaterThan(0);
    expect(
      await countOf(db, 'FROM (SELECT name FROM people GROUP BY name HAVING COUNT(*) > 1) twins'),
    ).toBeGreaterThan(1);
    expect(await countOf(db, "FROM `groups` WHERE kind = 'live'")).toBe(12);
    expect(await countOf(db, "FROM `groups` WHERE kind = 'fixed'")).toBe(4);
    expect(await countOf(db, 'FROM boards')).toBe(16);
  });

  it('has a full past and a planned future, cut at this moment', async () => {
    const wrong =
      "FROM occurrences WHERE (state = 'sent' AND due_at > NOW(3)) OR (state = 'scheduled' AND due_at <= ?)";
    expect(await countOf(db, wrong, [begun])).toBe(0);
    expect(await countOf(db, "FROM occurrences WHERE state = 'sent'")).toBeGreaterThan(35);
    expect(await countOf(db, "FROM occurrences WHERE state = 'scheduled'")).toBeGreaterThan(5);
    expect(await countOf(db, "FROM occurrences WHERE state = 'recalled'")).toBe(1);
    expect(await countOf(db, "FROM deliveries WHERE state = 'failed'")).toBeGreaterThan(0);
    expect(await countOf(db, 'FROM deliveries WHERE went_at > NOW(3) + INTERVAL 5 SECOND')).toBe(0);
    expect(await countOf(db, 'FROM roll WHERE answered_at > NOW(3) + INTERVAL 5 SECOND')).toBe(0);
    // Nobody was given what went out before they joined.
    expect(
      await countOf(
        db,
        'FROM deliveries d JOIN people p ON p.id = d.person_id WHERE p.joined_on > DATE(d.due_at)',
      ),
    ).toBe(0);
    const sheet = await runSheet(db, coordinator, Date.now() - 8 * 86_400_000, Date.now() + 15 * 86_400_000);
    expect(sheet.length).toBeGreaterThan(15);
    for (const row of sheet) expect(row.sentence).not.toContain('no longer exists');
  });

  it('is the same at every start', async () => {
    const again = await loaded('two');
    const picture = async (of: Database): Promise<unknown> => [
      await rows(of, 'SELECT id, name, mail, role, standing, occupation, zone FROM people ORDER BY id'),
      await rows(of, 'SELECT group_id, person_id FROM group_members ORDER BY 1, 2'),
      await rows(of, 'SELECT id, name, posting FROM boards ORDER BY id'),
      await rows(of, 'SELECT id, title FROM announcement_versions ORDER BY id'),
      await rows(
        of,
        'SELECT occurrence_id, person_id, answered_at IS NULL AS waiting, via FROM roll ORDER BY 1, 2',
      ),
    ];
    expect(await picture(again)).toEqual(await picture(db));
  });
});
