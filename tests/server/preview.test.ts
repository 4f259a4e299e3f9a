import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Doc } from '../../src/core/content/document.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { databaseNow, type Database } from '../../src/server/database/connection.ts';
import { audienceChoices, findByName } from '../../src/server/groups/service.ts';
import {
  addContact,
  chooseQuiet,
  chooseQuietForAll,
  listContacts,
  quietHours,
} from '../../src/server/people/service.ts';
import { clocks } from '../../src/server/people/store.ts';
import { previewMail, previewReader } from '../../src/server/preview/service.ts';
import { checkLinks } from '../../src/server/rehearsal/links.ts';
import { makeSeries } from '../../src/server/series/service.ts';
import { briefOf } from '../../src/core/sends/forecast.ts';
import { forecast, quickCount } from '../../src/server/sends/forecast.ts';
import { addGroup, addPeople, content, coordinator, freshDatabase, plan, toGroups } from './world.ts';

const DAY_MS = 86_400_000;
const member: Actor = { id: 5, role: 'member', moderates: new Set(), mayReach: new Set() };
let db: Database;
let nowMs: number;
let north: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('preview'));
  await addPeople(db, 10, 1);
  await addPeople(db, 10, 2);
  nowMs = await databaseNow(db);
  north = await addGroup(db, 'North ones', { kind: 'station', id: 1 });
});
afterAll(() => db.destroy());

const greeting: Doc = {
  type: 'doc',
  content: [
    {
      type: 'paragraph',
      content: [
        { type: 'text', text: 'Dear ' },
        { type: 'field', attrs: { name: 'name', fallback: '' } },
        { type: 'text', text: ' of ' },
        { type: 'field', attrs: { name: 'station', fallback: 'nowhere' } },
        { type: 'text', text: ', it is ' },
        { type: 'field', attrs: { name: 'date', fallback: '' } },
      ],
    },
  ],
};
const draft = (part: Partial<Plan>, text: Parameters<typeof content>[0] = {}): Promise<number> =>
  insertAnnouncement(db, coordinator.id, content(text), plan(part), 'draft');

describe('a draft as its reader sees it', () => {
  it('comes at the reader’s own hour, with their name, place and date', async () => {
    const wall = `${wallAt(nowMs + 3 * DAY_MS, 'UTC').slice(0, 10)}T09:00`;
    const id = await draft(
      { timing: { kind: 'local', wall, passed: 'not' } },
      { sections: [plainSection(greeting)] },
    );
    const south = await previewReader(db, coordinator, id, 12);
    expect(wallAt(south.atMs, 'Pacific/Auckland')).toBe(wall);
    const northern = await previewReader(db, coordinator, id, 2);
    expect(wallAt(northern.atMs, 'Europe/London')).toBe(wall);
    const mail = await previewMail(db, coordinator, id, 12);
    const date = new Intl.DateTimeFormat('en-GB', {
      weekday: 'long',
      day: 'numeric',
      month: 'long',
      timeZone: 'UTC',
    })
      .format(Date.parse(`${wall}:00Z`))
      .replace(',', '');
    expect(mail.text).toContain(`Dear Person 00012 of South, it is ${date}`);
    expect(mail.html).toContain('Dear Person 00012 of South');
    await expect(previewMail(db, coordinator, id, 99_999)).rejects.toMatchObject({ status: 404 });
    await expect(previewMail(db, member, id, 12)).rejects.toMatchObject({ status: 404 });
  });

  it('waits in the preview too where it is quiet, and shows the number the issue will have', async () => {
    await db('people').where({ id: 3 }).update({ quiet_from: '08:00', quiet_to: '10:30' });
    const seriesId = await makeSeries(db, coordinator, {
      name: 'Numbers',
      banner: null,
      heading: 'No. {number}',
      byline: '',
      categories: [],
    });
    const wall = `${wallAt(nowMs + 3 * DAY_MS, 'UTC').slice(0, 10)}T09:00`;
    const timing: Plan['timing'] = { kind: 'local', wall, passed: 'not' };
    const text = { title: 'No. {number}: frost', issue: { seriesId, category: '' } };
    const id = await draft({ timing }, text);
    const resting = await previewReader(db, coordinator, id, 3);
    expect(wallAt(resting.atMs, 'Europe/London').slice(11)).toBe('10:30');
    expect((await previewMail(db, coordinator, id, 3)).html).toContain('No. 1: frost');
    const urgent = await draft({ timing }, { ...text, importance: 'urgent' });
    const awake = await previewReader(db, coordinator, urgent, 3);
    expect(wallAt(awake.atMs, 'Europe/London').slice(11)).toBe('09:00');
  });
});

describe('links of a draft', () => {
  let server: Server;
  let port: number;
  const asked: string[] = [];
  beforeAll(async () => {
    server = createServer((request, response) => {
      asked.push(request.url ?? '');
      response.statusCode = 404;
      response.end();
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    ({ port } = server.address() as AddressInfo);
  });
  afterAll(() => new Promise((resolve) => server.close(resolve)));

  it('are never tried on private addresses, by number or by name', async () => {
    const found = await checkLinks([
      `http://127.0.0.1:${port}/a`,
      `http://[::1]:${port}/b`,
      `http://localhost:${port}/c`,
      `http://[::ffff:127.0.0.1]:${port}/d`,
      'http://10.0.0.1/e',
      'http://169.254.169.254/latest/meta-data',
      'http://[fd00::1]/f',
    ]);
    expect(found.map((verdict) => verdict.state)).toEqual(Array.from({ length: 7 }, () => 'unknown'));
    for (const verdict of found) expect(verdict.why).toMatch(/private address/);
    expect(asked).toEqual([]);
  });

  it('are tried only where they lead to a page, each once', async () => {
    expect(await checkLinks(['mailto:a@b.example', 'tel:+44', 'javascript:alert(1)', 'not a link'])).toEqual(
      [],
    );
    const twice = await checkLinks(['http://10.0.0.1/', 'http://10.0.0.1/']);
    expect(twice).toHaveLength(1);
  });
});

describe('quiet hours', () => {
  it('are one’s own, or those of everybody, which only a coordinator sets', async () => {
    await expect(chooseQuietForAll(db, member, { from: '20:00', to: '06:00' })).rejects.toThrow(
      /Only a coordinator/,
    );
    await chooseQuietForAll(db, coordinator, { from: '20:00', to: '06:00' });
    expect(await quietHours(db, member)).toEqual({ own: null, ofAll: { from: '20:00', to: '06:00' } });
    await chooseQuiet(db, member, { from: '00:00', to: '00:00' });
    expect((await quietHours(db, member)).own).toEqual({ from: '00:00', to: '00:00' });
    const found = await clocks(db);
    expect(found).toContainEqual({ zone: 'Europe/London', quiet: { from: '00:00', to: '00:00' } });
    expect(new Set(found.map((clock) => JSON.stringify(clock))).size).toBe(found.length);
    await chooseQuiet(db, member, null);
    await chooseQuietForAll(db, coordinator, null);
    expect(await quietHours(db, member)).toEqual({ own: null, ofAll: null });
  });
});

describe('linked contacts', () => {
  it('are added by a coordinator, read by the person’s clock, and are in no count', async () => {
    const before = await quickCount(db, coordinator, { kind: 'everyone' });
    const input = { name: 'A father', mail: 'father@test.example', relation: 'father' };
    await addContact(db, coordinator, 12, input);
    await expect(addContact(db, coordinator, 13, input)).rejects.toMatchObject({
      errors: [{ field: 'mail' }],
    });
    await expect(addContact(db, member, 12, input)).rejects.toMatchObject({ status: 403 });
    await expect(addContact(db, coordinator, 99_999, input)).rejects.toMatchObject({ status: 404 });
    expect(await listContacts(db, coordinator, 12)).toMatchObject([{ name: 'A father', relation: 'father' }]);
    expect(await quickCount(db, coordinator, { kind: 'everyone' })).toEqual(before);
    expect((await findByName(db, coordinator, 'A father')).length).toBe(0);
  });
});

describe('what an audience is built from', () => {
  it('is told each as they may address it, with how many a group calls', async () => {
    await db('person_attributes').insert({ person_id: 2, name: 'licence', value: 'van' });
    const all = await audienceChoices(db, coordinator);
    expect(all).toMatchObject({ anybody: true, occupations: ['curator', 'driver'] });
    expect(all.attributes).toEqual([{ name: 'licence', values: ['van'] }]);
    const editor: Actor = { id: 6, role: 'editor', moderates: new Set(), mayReach: new Set() };
    const none = await audienceChoices(db, editor);
    expect(none).toMatchObject({ anybody: false, groups: [] });
    const found = await findByName(db, coordinator, 'north');
    expect(found).toEqual([{ kind: 'group', id: north, name: 'North ones', detail: 'calls 10' }]);
    // An editor is told of no group beyond their reach, and a wildcard is a letter like any other.
    expect(await findByName(db, editor, 'north')).toEqual([]);
    expect(await findByName(db, coordinator, '%')).toEqual([]);
    await expect(findByName(db, member, 'a')).rejects.toMatchObject({ status: 403 });
  });

  it('is counted alike by the quick count and the whole forecast', async () => {
    for (const audience of [
      toGroups([north]),
      { kind: 'except', from: { kind: 'everyone' }, minus: { kind: 'group', id: north } } as const,
      {
        kind: 'all',
        of: [
          { kind: 'group', id: north },
          { kind: 'occupation', occupation: 'driver' },
        ],
      } as const,
    ]) {
      const whole = await forecast(
        db,
        coordinator,
        plan({ audience: audience as Plan['audience'] }),
        briefOf(content()),
      );
      const quick = await quickCount(db, coordinator, audience as Plan['audience']);
      expect(quick).toEqual({ people: whole.people, sample: whole.sample });
    }
  });
});
