import { readFileSync } from 'node:fs';
import { collectDefaultMetrics, Registry } from 'prom-client';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runningTroubles, type Queue } from '../../src/core/operating/running.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { dueTimes, glance, type DueKind } from '../../src/server/engine/dueStore.ts';
import { clearUp } from '../../src/server/engine/upkeep.ts';
import { Heartbeat } from '../../src/server/operating/heartbeat.ts';
import { engineHealth } from '../../src/server/operating/processStore.ts';
import { howItRuns } from '../../src/server/operating/service.ts';
import { expandNow } from './expandNow.ts';
import { addPeople, coordinator, followAll, freshDatabase, sendNow } from './world.ts';
import { EngineFigures } from '../../src/server/metrics.ts';

it('alert rules ask for figures that there are', async () => {
  const rules = readFileSync(new URL('../../deploy/alerts.yml', import.meta.url), 'utf8');
  const asked = new Set(rules.match(/clear_bell_[a-z0-9_]+/g) ?? []);
  const engine = new EngineFigures();
  engine.lateness.observe(0.1);
  engine.deliveries.inc({ method: 'mail', outcome: 'failed' }, 1);
  engine.skew.set(0);
  engine.damaged.set(0);
  const web = new Registry();
  collectDefaultMetrics({ register: web, prefix: 'clear_bell_web_' });
  const told = `${await engine.registry.metrics()}\n${await web.metrics()}`;
  expect(asked.size).toBeGreaterThan(3);
  for (const name of asked) expect(told, name).toMatch(new RegExp(`^${name}(\\{[^}]*\\})? `, 'm'));
  // Labels and bounds that are asked for are there too.
  expect(told).toContain('clear_bell_bucket_lateness_seconds_bucket{le="1"}');
  expect(told).toContain('method="mail",outcome="failed"');
});

describe('how it runs', () => {
  let db: Database;
  beforeAll(async () => {
    ({ db } = await freshDatabase('operating'));
  });
  afterAll(() => db.destroy());

  it('names each process that says so, tells one that went silent from one that ended, and engines alone go out', async () => {
    const [engine, web, killed] = [
      new Heartbeat(db, 'engine'),
      new Heartbeat(db, 'web'),
      new Heartbeat(db, 'engine'),
    ];
    for (const each of [engine, web, killed]) await each.write();
    await engine.write('The mail server refuses us');
    expect(await engineHealth(db)).toEqual({ running: 2, mailPaused: 'The mail server refuses us' });
    await db('processes')
      .where({ name: killed.name })
      .update({ beat_at: db.raw('NOW(3) - INTERVAL 1 MINUTE'), known: 1 });
    await db('processes')
      .where({ name: engine.name })
      .update({ started_at: db.raw('NOW(3) - INTERVAL 1 HOUR') });
    const running = await howItRuns(db, coordinator);
    expect(new Map(running.processes.map(({ name, otherVersion }) => [name, otherVersion]))).toEqual(
      new Map([
        [web.name, false],
        [engine.name, false],
        [killed.name, true],
      ]),
    );
    expect(runningTroubles(running).join('\n')).toMatch(
      /1 process ended without[^]*The mail server refuses us/,
    );
    await engine.stop();
    expect(await engineHealth(db)).toEqual({ running: 0, mailPaused: null });
    await db('processes')
      .where({ name: killed.name })
      .update({ beat_at: db.raw('NOW(3) - INTERVAL 25 HOUR') });
    await clearUp(db);
    expect((await howItRuns(db, coordinator)).processes.map(({ name }) => name)).toEqual([web.name]);
    await web.stop();
    await killed.stop();
  });

  it('counts what waits now and later, how late what was due went, and why mail failed; to coordinators alone', async () => {
    const people = await addPeople(db, 4);
    const id = await sendNow(db, {
      audience: { kind: 'any', of: people.map((each) => ({ kind: 'person', id: each })) },
      mail: true,
    });
    const waits = async (kind: Queue['kind']): Promise<Queue> =>
      (await howItRuns(db, coordinator)).queues.find((each) => each.kind === kind)!;
    expect(await waits('going out')).toMatchObject({ now: 1 });
    expect(await glance(db)).toEqual({ place: (await dueTimes(db)).place, more: true });
    // What wakes an engine says the same as what it then takes.
    const due = async (kind: DueKind): Promise<'now' | 'not now'> => {
      const { nowMs, due: all } = await dueTimes(db);
      return (all[kind] ?? Infinity) <= nowMs ? 'now' : 'not now';
    };
    expect(await Promise.all((['buckets', 'mail', 'events'] as const).map(due))).toEqual([
      'now',
      'not now',
      'now',
    ]);
    await expandNow(db, id);
    expect(await waits('going out')).toMatchObject({ now: 0, sinceMs: null });
    expect(await Promise.all((['buckets', 'mail'] as const).map(due))).toEqual(['not now', 'now']);
    const mails = (person: number, part: object) =>
      db('deliveries').where({ occurrence_id: id, person_id: person, method: 'mail' }).update(part);
    await mails(people[0]!, { state: 'delivered', went_at: db.raw('due_at + INTERVAL 30 SECOND') });
    await mails(people[1]!, { state: 'failed', reason: 'No such mailbox' });
    await mails(people[2]!, { state: 'waiting', try_at: db.raw('NOW(3) + INTERVAL 1 HOUR') });
    await mails(people[3]!, { state: 'waiting', try_at: db.raw('NOW(3) - INTERVAL 5 MINUTE') });
    await db('people')
      .where({ id: people[1]! })
      .update({ mail_failing: db.raw('mail') });
    const running = await howItRuns(db, coordinator);
    const mail = await waits('mail');
    expect(mail).toMatchObject({ now: 1, later: 1 });
    expect(running.nowMs - mail.sinceMs!).toBeGreaterThanOrEqual(299_000);
    expect(running.mail).toEqual({
      delivered: 1,
      failed: 1,
      reasons: [{ reason: 'No such mailbox', n: 1 }],
      returning: 1,
    });
    expect(running.lateness.find(({ method }) => method === 'mail')).toMatchObject({
      n: 1,
      withinSecond: 0,
      withinMinute: 1,
      worstMs: 30_000,
    });
    expect(running.lateness.find(({ method }) => method === 'inbox')?.n).toBe(4);
    expect((await waits('events')).now).toBeGreaterThan(0);
    await followAll(db);
    expect((await waits('events')).now).toBe(0);
    expect(await due('events')).toBe('not now');
    await expect(howItRuns(db, { ...coordinator, role: 'editor' })).rejects.toMatchObject({ status: 403 });
  });
});
