import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { lookIntoParts } from '../../src/server/organisation/parts/service.ts';
import { insertTakeout, notifyTakeout } from '../../src/server/organisation/takeoutStore.ts';
import { beginTakeout, dropTakeout, latest, takeoutFile } from '../../src/server/organisation/takeouts.ts';
import { clearUp } from '../../src/server/engine/upkeep.ts';
import { coordinator, countOf, copiedDemo, refusal } from './world.ts';

const ORIGIN = 'https://desk.example';
let db: Database;
const errors: unknown[] = [];
const begin = (by: Actor = coordinator) => beginTakeout(db, by, ORIGIN, (error) => errors.push(error));

beforeAll(async () => {
  ({ db } = await copiedDemo('takeouts'));
}, 120_000);
// What one try ran into says nothing of the next.
beforeEach(() => errors.splice(0));
afterAll(() => db.destroy());

describe('the organisation taken out behind the page', () => {
  it('is made while others wait, told how far it is, and fetched as often as one likes', async () => {
    const { takeout, through } = await begin();
    expect(takeout).toMatchObject({ state: 'under way', by: 'Maud Fenwright' });
    expect((await refusal(begin())).status).toBe(409);
    expect((await refusal(takeoutFile(db, coordinator, takeout.id))).status).toBe(404);
    await through;
    const ready = await latest(db, coordinator);
    expect(ready).toMatchObject({ id: takeout.id, state: 'ready', percent: 100 });
    expect((ready?.untilMs ?? 0) - (ready?.begunMs ?? 0)).toBeGreaterThanOrEqual(24 * 3_600_000);
    const folder = await mkdtemp(join(tmpdir(), 'takeouts-'));
    try {
      for (let round = 0; round < 2; round++) {
        const { name, bytes, body } = await takeoutFile(db, coordinator, takeout.id);
        expect(name).toMatch(/^Thistledown.* \d{4}-\d\d-\d\d\.zip$/);
        const whole = Buffer.from(await new Response(body).arrayBuffer());
        expect(whole.byteLength).toBe(bytes);
        await writeFile(join(folder, 'whole.zip'), whole);
        const { parts } = await lookIntoParts(db, coordinator, join(folder, 'whole.zip'));
        // Beside the organisation it was taken from, all that can come in is as it is.
        expect(parts.filter(({ state }) => state === 'new' || state === 'changed')).toEqual([]);
        expect(parts.filter(({ state }) => state === 'same').length).toBeGreaterThan(30);
      }
    } finally {
      await rm(folder, { recursive: true });
    }
    expect(errors).toEqual([]);
  });

  it('is for coordinators alone, whichever its id', async () => {
    const editor: Actor = { ...coordinator, id: 5, role: 'editor' };
    const id = (await latest(db, coordinator))?.id ?? 0;
    for (const work of [
      () => begin(editor),
      () => latest(db, editor),
      () => takeoutFile(db, editor, id),
      () => dropTakeout(db, editor, id),
    ])
      expect((await refusal(work())).status).toBe(403);
  });

  it('is given up where it is not wanted any more, with nothing left behind', async () => {
    const { takeout, through } = await begin();
    await dropTakeout(db, coordinator, takeout.id);
    // Begun again at once, the next one waits until this one is given up.
    const again = await begin();
    await through;
    await again.through;
    expect(errors).toEqual([]);
    expect(await latest(db, coordinator)).toMatchObject({ id: again.takeout.id, state: 'ready', why: null });
    await dropTakeout(db, coordinator, again.takeout.id);
    expect(await latest(db, coordinator)).toBeNull();
    expect(await countOf(db, 'FROM takeout_parts')).toBe(0);
    const { through: next } = await begin();
    await next;
    expect((await latest(db, coordinator))?.state).toBe('ready');
  });

  it('is told to have stopped where whoever made it is gone, and can be begun again', async () => {
    const id = (await insertTakeout(db, coordinator.id)) ?? 0;
    await notifyTakeout(db, id, { done: 50, total: 200, bytes: 7 });
    expect(await latest(db, coordinator)).toMatchObject({ state: 'under way', percent: 25, bytes: 7 });
    await db('takeouts')
      .where({ id })
      .update({ beat_at: db.raw('NOW(3) - INTERVAL 2 MINUTE') });
    expect(await latest(db, coordinator)).toMatchObject({
      state: 'failed',
      why: 'The process that made it stopped.',
    });
    const { through } = await begin();
    await through;
    expect((await latest(db, coordinator))?.state).toBe('ready');
  });

  it('is deleted a day after it was ready', async () => {
    await db('takeouts').update({ ended_at: db.raw('NOW(3) - INTERVAL 25 HOUR') });
    await clearUp(db);
    expect(await latest(db, coordinator)).toBeNull();
    expect(await countOf(db, 'FROM takeout_parts')).toBe(0);
  });
});
