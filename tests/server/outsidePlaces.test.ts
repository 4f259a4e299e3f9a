import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { EngineFigures } from '../../src/server/metrics.ts';
import { deskToday } from '../../src/server/desk/service.ts';
import { freePort } from '../../scripts/house/ports.ts';
import { until } from '../../scripts/house/processes.ts';
import { hookOutSchema, type Place } from '../../src/core/gateways/hookOut.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { briefOf } from '../../src/core/sends/forecast.ts';
import { insertAnnouncement, saveRevision } from '../../src/server/announcements/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import {
  addHookOut,
  alterHookOut,
  deleteHookOut,
  filledTemplate,
  openHookOut,
  switchHookOut,
} from '../../src/server/gateways/outService.ts';
import { placeChoices } from '../../src/server/gateways/places.ts';
import { rehearse } from '../../src/server/rehearsal/service.ts';
import { forgetDeliveries } from '../../src/server/retention/forgetStore.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import { openForChange } from '../../src/server/sends/changing.ts';
import { publishCorrection } from '../../src/server/sends/correcting.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { forecast } from '../../src/server/sends/forecast.ts';
import { sendPage } from '../../src/server/sends/page.ts';
import { retry } from '../../src/server/sends/service.ts';
import { withdraw, reinstate } from '../../src/server/sends/withdrawing.ts';
import { startReceiverStandIn } from '../../src/standins/receiver/server.ts';
import { lookAtGroup } from '../../src/server/automations/watching.ts';
import { actIn, field, putToWork, saidIn, says } from './automating.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  makeDue,
  plan,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
  type MailHouse,
  refusal,
} from './world.ts';

let db: Database;
let mail: MailHouse;
const running: { stop: () => Promise<void> }[] = [];
beforeAll(async () => {
  ({ db } = await freshDatabase('outside'));
  mail = await mailHouse();
});
afterEach(async () => {
  await Promise.all(running.splice(0).map((each) => each.stop()));
});
afterAll(async () => {
  await mail.stop();
  await db.destroy();
});

const TEMPLATE = JSON.stringify({
  what: '{{ change }}',
  headline: '{{ organisation }}: {{ title }}',
  parts: '{{ sections }}',
  words: '{{ text }}',
  why: '{{ note }}',
  link: '{{ url }}',
});
interface Body {
  what: string;
  headline: string;
  words: string;
  why: string;
  link: string;
}

let made = 0;
/** An outside place with its receiver, which knows its secret. */
async function place(part: Partial<Place> = {}) {
  const name = `Place ${++made}`;
  const { id, secret } = await addHookOut(
    db,
    coordinator,
    hookOutSchema.parse({
      name,
      url: 'http://127.0.0.1:9/events',
      kinds: [],
      boardId: null,
      place: { template: TEMPLATE, changes: false, editors: false, ...part },
    }),
    SECRET,
  );
  const port = await freePort();
  running.push(await startReceiverStandIn(port, secret));
  const origin = `http://127.0.0.1:${port}`;
  await db.raw("UPDATE hooks_out SET hook = JSON_SET(hook, '$.url', ?) WHERE id = ?", [
    `${origin}/events`,
    id,
  ]);
  const came = async (): Promise<(Body & { proof: string; id: string })[]> =>
    ((await (await fetch(`${origin}/came`)).json()) as { proof: string; id: string; body: string }[])
      .map(({ body, proof, id: of }) => ({ ...(JSON.parse(body) as Body), proof, id: of }))
      .reverse();
  const mood = (to: string): Promise<unknown> =>
    fetch(`${origin}/mood/${to}`, { method: 'POST', redirect: 'manual' });
  const engine = async (): Promise<void> => {
    running.unshift(await startEngine(db, mail.url, { inside: [origin] }));
  };
  const tryNow = (): Promise<unknown> =>
    db.raw("UPDATE hook_deliveries SET try_at = NOW(3) WHERE hook_id = ? AND state = 'waiting'", [id]);
  return { id, name, came, mood, engine, tryNow };
}
const at = async (occurrence: number) => (await sendPage(db, coordinator, occurrence)).outside;
/** It was tried, and what came of it is noted: it waits for the next time. */
const triedOnce = (each: Awaited<ReturnType<typeof at>>[number] | undefined): boolean =>
  each?.attempts === 1 && each.state === 'waiting';

describe('an outside place', () => {
  it('gets a send once, signed, by its template, with two engines, and is counted and read in the sentence', async () => {
    const there = await place();
    const some = await addGroup(db, 'Some', await addPeople(db, 3));
    const occurrence = await sendNow(
      db,
      { audience: toGroups([some]), outside: [there.id] },
      { title: 'Doors “open”' },
    );
    await there.engine();
    await there.engine();
    await reaches(db, occurrence, 'sent');
    const [came, ...more] = await there.came();
    expect(more).toEqual([]);
    expect(came).toMatchObject({
      proof: 'good',
      id: `place.${occurrence}.sent`,
      what: 'sent',
      headline: expect.stringMatching(/: Doors “open”$/) as string,
      link: `http://bell.test/for-me/${occurrence}`,
    });
    const { row, counts, outside } = await sendPage(db, coordinator, occurrence);
    expect(row.sentence).toContain(`to the outside place ${there.name}`);
    expect(outside).toMatchObject([{ name: there.name, state: 'delivered', attempts: 1, reason: null }]);
    expect(counts.find((each) => each.method === 'outside')).toMatchObject({ state: 'delivered', n: 1 });
    expect(row.outside).toBe(1);
    // What was handed over is in the log of the way out as it was.
    const [handover] = (await openHookOut(db, coordinator, there.id)).handovers;
    expect(JSON.parse(handover?.sentBody ?? '{}')).toMatchObject({ headline: came?.headline });
  });

  it('alone is enough to send to; while it is down the send is going out, is tried again and then is late', async () => {
    const there = await place();
    await there.mood('busy');
    const occurrence = await sendNow(db, { audience: null, outside: [there.id] });
    await there.engine();
    expect(await until(async () => triedOnce((await at(occurrence))[0]), 20_000)).toBe(true);
    expect(await until(async () => (await at(occurrence))[0]?.state === 'waiting', 20_000)).toBe(true);
    const [waiting] = await at(occurrence);
    expect(waiting).toMatchObject({ status: 503, reason: 'It answered 503.' });
    // Once is nothing; what fails again and again stands on the first screen, for coordinators.
    const told = async (actor: Actor) =>
      (await deskToday(db, { actor, zone: 'UTC', name: '', owns: false })).outside.filter(
        ({ path }) => path === `/gateways/out/${there.id}`,
      );
    expect(await told(coordinator)).toEqual([]);
    await db.raw('UPDATE hook_deliveries SET attempts = attempts + 2 WHERE occurrence_id = ?', [occurrence]);
    expect(await told(coordinator)).toEqual([
      { path: `/gateways/out/${there.id}`, name: there.name, why: 'It answered 503.' },
    ]);
    expect(await told({ ...coordinator, role: 'editor' })).toEqual([]);
    await db.raw('UPDATE hook_deliveries SET attempts = attempts - 2 WHERE occurrence_id = ?', [occurrence]);
    expect((await sendPage(db, coordinator, occurrence)).row.state).toBe('going out');
    await there.mood('well');
    await db.raw('UPDATE hook_deliveries SET due_at = due_at - INTERVAL 90 SECOND WHERE occurrence_id = ?', [
      occurrence,
    ]);
    await there.tryNow();
    await reaches(db, occurrence, 'sent');
    const [got] = await at(occurrence);
    expect(got).toMatchObject({ state: 'delivered', attempts: 2 });
    expect(got?.lateMs).toBeGreaterThanOrEqual(90_000);
    expect((await sendPage(db, coordinator, occurrence)).row.worstLateMs).toBe(got?.lateMs);
  });

  it('that gave up is tried again by hand, and what waits for it is called off with a withdrawal', async () => {
    const there = await place({ changes: true });
    await there.mood('busy');
    const [given, waits] = [
      await sendNow(db, { audience: null, outside: [there.id] }),
      await sendNow(db, { audience: null, outside: [there.id] }),
    ];
    await there.engine();
    expect(await until(async () => triedOnce((await at(given))[0]), 20_000)).toBe(true);
    // At the end of the two days.
    await db.raw('UPDATE hook_deliveries SET attempts = 10, try_at = NOW(3) WHERE occurrence_id = ?', [
      given,
    ]);
    expect(await until(async () => (await at(given))[0]?.state === 'failed', 20_000)).toBe(true);
    await reaches(db, given, 'sent');
    expect((await sendPage(db, coordinator, given)).row.failed).toBe(1);
    expect(await until(async () => triedOnce((await at(waits))[0]), 20_000)).toBe(true);
    await withdraw(db, coordinator, waits, { note: 'It was wrong' });
    expect((await at(waits))[0]?.state).toBe('called off');
    expect((await refusal(retry(db, coordinator, waits))).status).toBe(409);
    await there.mood('well');
    expect(await retry(db, coordinator, given)).toEqual({ again: 1 });
    await reaches(db, given, 'sent');
    expect((await there.came()).map(({ what, id }) => [what, id])).toEqual([['sent', `place.${given}.sent`]]);
  });

  it('that wants to know is told of withdrawals after it had the send, in order; one that does not is not', async () => {
    const [told, untold] = [await place({ changes: true }), await place()];
    const occurrence = await sendNow(db, { audience: null, outside: [told.id, untold.id] });
    const [a, b] = [told.came, untold.came];
    running.unshift(
      await startEngine(db, mail.url, {
        inside: await originsOf([told.id, untold.id]),
      }),
    );
    await reaches(db, occurrence, 'sent');
    const { announcementId } = await openForChange(db, coordinator, occurrence, 'correct');
    const { revision, plan: planned } = await openAnnouncement(db, coordinator, announcementId);
    await saveRevision(
      db,
      announcementId,
      revision,
      coordinator.id,
      content({ title: 'Put right' }),
      planned,
    );
    const correction = {
      revision: revision + 1,
      note: 'The title',
      tell: 'nobody',
      askAgain: false,
    } as const;
    await publishCorrection(db, coordinator, announcementId, correction, 'outside-correction');
    expect(await until(async () => (await a()).length === 2, 20_000)).toBe(true);
    expect((await a())[1]).toMatchObject({
      what: 'corrected',
      why: 'The title',
      headline: expect.stringContaining('Put right') as string,
    });
    await withdraw(db, coordinator, occurrence, { note: 'The hall is shut' });
    expect(await until(async () => (await a()).length === 3, 20_000)).toBe(true);
    await reinstate(db, coordinator, occurrence);
    expect(await until(async () => (await a()).length === 4, 20_000)).toBe(true);
    expect((await a()).map(({ what, words, why }) => [what, words === '', why])).toEqual([
      ['sent', false, ''],
      ['corrected', false, 'The title'],
      ['withdrawn', false, 'The hall is shut'],
      ['reinstated', false, ''],
    ]);
    expect((await a())[2]?.words).toBe('Withdrawn: The hall is shut');
    expect(await b()).toHaveLength(1);
  });

  it('that is switched off gets nothing and says so beforehand; one that has paused gets it later and holds up nothing', async () => {
    const [off, paused] = [await place(), await place()];
    await switchHookOut(db, coordinator, off.id, false);
    await db.raw("UPDATE hooks_out SET state = 'paused' WHERE id = ?", [paused.id]);
    const wanted = plan({ audience: null, outside: [off.id, paused.id] });
    const outlook = await forecast(db, coordinator, wanted, briefOf(content()));
    expect(outlook.problems).toEqual([]);
    expect(outlook.warnings.filter((each) => each.field === 'outside').map((each) => each.detail)).toEqual([
      expect.stringContaining(`${off.name} is switched off`),
      expect.stringContaining(`${paused.name} has paused`),
    ]);
    const occurrence = await sendNow(db, { audience: null, outside: [off.id, paused.id] });
    const figures = new EngineFigures();
    running.unshift(
      await startEngine(db, mail.url, { inside: await originsOf([off.id, paused.id]) }, figures),
    );
    await reaches(db, occurrence, 'sent');
    expect((await at(occurrence)).map((each) => each.state)).toEqual(['failed', 'waiting']);
    await switchHookOut(db, coordinator, paused.id, true);
    expect(await until(async () => (await paused.came()).length === 1, 20_000)).toBe(true);
    expect(await off.came()).toEqual([]);
    expect(await until(async () => (await at(occurrence))[1]?.state === 'delivered', 20_000)).toBe(true);
    const counted = 'clear_bell_deliveries_total{method="outside",outcome="delivered"} 1';
    expect(await until(async () => (await figures.registry.metrics()).includes(counted), 20_000)).toBe(true);
  });

  it('is rehearsed with its body, and a template that can no longer be filled in is told of and not sent', async () => {
    const there = await place();
    const id = await insertAnnouncement(
      db,
      coordinator.id,
      content({ title: 'Rehearsed' }),
      plan({ audience: null, outside: [there.id] }),
      'draft',
    );
    const as = { actor: coordinator, zone: 'Europe/London' };
    const options = { links: false, publicUrl: 'http://bell.test' };
    const [good] = (await rehearse(db, as, id, 3, options)).outside;
    expect(JSON.parse(good?.body ?? '{}')).toMatchObject({
      what: 'sent',
      words: expect.any(String) as string,
    });
    await db.raw("UPDATE hooks_out SET hook = JSON_SET(hook, '$.place.template', ?) WHERE id = ?", [
      '{"a": "x {{ nothing }}"}',
      there.id,
    ]);
    expect((await rehearse(db, as, id, 3, options)).outside[0]?.problem).toMatch(/undefined variable/);
    const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, 'outside-rehearsed');
    await makeDue(db, occurrenceId);
    await there.engine();
    expect(
      await until(async () => /undefined variable/.test((await at(occurrenceId))[0]?.reason ?? ''), 20_000),
    ).toBe(true);
    expect(await there.came()).toEqual([]);
  });

  it('is for coordinators until editors are let in, is checked when it is made, and is not deleted while something goes there', async () => {
    const [closed, open] = [await place(), await place({ editors: true })];
    const group = await addGroup(db, 'Theirs', await addPeople(db, 1));
    const [editorId = 0] = await addPeople(db, 1);
    const editor: Actor = { id: editorId, role: 'editor', moderates: new Set(), mayReach: new Set([group]) };
    const choices = await placeChoices(db, editor);
    expect(choices.find((each) => each.id === closed.id)?.denied).toContain('Only coordinators');
    expect(choices.find((each) => each.id === open.id)?.denied).toBeNull();
    const draft = (outside: number[]): Promise<number> =>
      insertAnnouncement(db, editorId, content(), plan({ audience: toGroups([group]), outside }), 'draft');
    const wrong = await refusal(
      confirmSend(db, editor, await draft([closed.id]), { revision: 1 }, 'outside-editor-1'),
    );
    expect(wrong.status).toBe(403);
    const sent = await confirmSend(db, editor, await draft([open.id]), { revision: 1 }, 'outside-editor-2');
    expect(sent.occurrenceId).toBeGreaterThan(0);
    expect((await refusal(deleteHookOut(db, coordinator, open.id))).status).toBe(409);
    await deleteHookOut(db, coordinator, closed.id);
    expect(await placeChoices(db, coordinator).then((all) => all.map((each) => each.id))).not.toContain(
      closed.id,
    );
    const gone = await forecast(db, coordinator, plan({ outside: [closed.id] }), briefOf(content()));
    expect(gone.problems.map((each) => each.field)).toEqual(['outside']);
    const told = { ...(await openHookOut(db, coordinator, open.id)).hook, place: null, kinds: ['post.up'] };
    const turned = alterHookOut(db, coordinator, open.id, { ...hookOutSchema.parse(told), revision: 1 });
    expect((await refusal(turned)).errors[0]?.field).toBe('place');
    expect((await refusal(filledTemplate(db, coordinator, '{', 'http://x'))).errors[0]?.field).toBe(
      'place.template',
    );
    expect((await refusal(filledTemplate(db, editor, '{}', 'http://x'))).status).toBe(403);
  });

  it('is where an automation can speak, by the rights its owner has then; what came of it outlives its deliveries', async () => {
    const there = await place();
    const [comes = 0] = await addPeople(db, 1);
    const group = await addGroup(db, 'Newcomers', []);
    const tell = {
      to: null,
      boards: [],
      outside: [there.id],
      boardField: null,
      mail: false,
      otherwise: null,
    };
    const id = await putToWork(
      db,
      { kind: 'joins', groupId: group },
      { content: says('Somebody came', field('person.name')), tell },
    );
    await lookAtGroup(db, group);
    await db('group_members').insert({ group_id: group, person_id: comes });
    await lookAtGroup(db, group);
    await actIn(db);
    expect(await saidIn(db, id)).toHaveLength(1);
    await there.engine();
    expect(await until(async () => (await there.came()).length === 1, 20_000)).toBe(true);
    expect((await there.came())[0]?.headline).toContain('Somebody came');
    const [went] = await rows<{ id: number }>(
      db,
      'SELECT occurrence_id AS id FROM hook_deliveries WHERE hook_id = ?',
      [there.id],
    );
    const occurrence = went?.id ?? 0;
    await reaches(db, occurrence, 'sent');
    const counted = async () => (await sendPage(db, coordinator, occurrence)).counts;
    const before = await counted();
    expect(before).toMatchObject([{ method: 'outside', state: 'delivered', n: 1 }]);
    await forgetDeliveries(db, occurrence);
    expect(await counted()).toEqual(before);
    expect(await countOf(db, 'FROM hook_deliveries WHERE occurrence_id = ?', [occurrence])).toBe(0);
    // Where it is gone, nothing is said and the run says so.
    await db('hooks_out').where({ id: there.id }).delete();
    const [next = 0] = await addPeople(db, 1);
    await db('group_members').insert({ group_id: group, person_id: next });
    await lookAtGroup(db, group);
    await actIn(db);
    expect(await saidIn(db, id)).toHaveLength(1);
  });
});

/** The origins of some outside places, as an operator lists them. */
async function originsOf(ids: readonly number[]): Promise<string[]> {
  const found = await rows<{ hook: string }>(
    db,
    `SELECT hook FROM hooks_out WHERE id IN (${ids.map(() => '?').join(', ')})`,
    [...ids],
  );
  return found.map(({ hook }) => new URL((JSON.parse(hook) as { url: string }).url).origin);
}
