import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { once } from 'node:events';
import { expect } from 'vitest';
import { askSchema } from '../../src/core/asks/ask.ts';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import { newAutomation } from '../../src/core/automation/automation.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { newPostSchema } from '../../src/core/boards/board.ts';
import { eventSchema } from '../../src/core/content/event.ts';
import { documentOfMarkdown } from '../../src/core/content/markdown.ts';
import { EMPTY_PLAN } from '../../src/core/plan/plan.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { lookAtGroup } from '../../src/server/automations/watching.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows } from '../../src/server/database/connection.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { makeSheet } from '../../src/server/sheets/service.ts';
import type { Caller } from './apiDesk.ts';
import { actIn, putToWork, says } from './automating.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, content, coordinator, countOf, plan, SECRET, sendNow } from './world.ts';

const DAY_MS = 86_400_000;

/** An automation tried, replayed, sent to oneself, and read as it was and as it ran. */
export async function trials({ db, people, call, inside }: Caller): Promise<void> {
  const group = await addGroup(db, 'Those who are welcomed', []);
  const automation = {
    ...newAutomation('Welcome them', { kind: 'joins' as const, groupId: group }),
    content: says('You are in', 'Good to see you.'),
  };
  const id = await putToWork(db, automation.when, { content: automation.content });
  await lookAtGroup(db, group);
  await call(`POST /groups/${group}/members`, { ids: [people[20]], lines: [] });
  await lookAtGroup(db, group);
  await actIn(db);
  const tried = await call(`POST /automations/${id}/trial`, { automation, personId: people[20] });
  expect(tried.body).toMatchObject({ problem: null, matched: 1, sayings: [{ title: 'You are in' }] });
  const before = await countOf(db, 'FROM occurrences');
  const trial = { automation, personId: people[20] };
  const sent = await call(`POST /automations/${id}/trial/send`, trial);
  expect(sent.body.occurrenceId).toBeGreaterThan(0);
  expect(await countOf(db, 'FROM occurrences')).toBe(before + 1);
  const replayed = await call(`POST /automations/${id}/replay`, automation);
  expect(replayed.body).toMatchObject({ runs: 1, said: 1, people: 1, reallySaid: 1 });
  const runs = await call(`GET /runs?automation=${id}`);
  const run = await call(`GET /runs/${runs.body.items[0]?.id ?? 0}`);
  expect(run.body).toMatchObject({ automationId: id, state: 'said', said: 1, sayings: [{ reason: null }] });
  const version = await call(`GET /automations/${id}/versions/1`);
  expect(version.body).toMatchObject({ automation: { content: { title: 'You are in' } } });

  const source = createServer((_request, response) => {
    response.setHeader('content-type', 'application/json');
    response.end(JSON.stringify({ level: 41, loans: [{ id: 'a', what: 'Lamp' }] }));
  });
  source.listen(0, '127.0.0.1');
  await once(source, 'listening');
  const origin = `http://127.0.0.1:${(source.address() as AddressInfo).port}`;
  inside.push(origin);
  try {
    const asked = await call('POST /sources/trial', {
      source: {
        name: 'Level',
        url: `${origin}/at?place={place}`,
        header: '',
        fields: [{ name: 'level', pointer: '/level', kind: 'number', unit: 'cm' }],
        keepMinutes: 10,
      },
      secret: '',
      id: null,
      inputs: { place: 'pond' },
    });
    expect(asked.body).toMatchObject({ problem: null, values: [{ name: 'level', value: '41 cm' }] });
    const sheet = await makeSheet(db, coordinator, {
      name: 'What is lent',
      purpose: '',
      form: null,
      columns: [{ id: 'c1', name: 'What', kind: 'text', unit: '', choices: [] }],
    });
    const records = { url: `${origin}/loans`, header: '', secret: '' };
    expect((await call(`POST /record-sheets/${sheet}/source/trial`, records)).body).toMatchObject({
      lists: [{ pointer: '/loans', rows: 1 }],
    });
  } finally {
    source.close();
  }
  const moment = {
    wall: wallAt(Date.now() + 2 * DAY_MS, 'UTC'),
    zone: 'UTC',
    rule: WEEKLY,
    audience: { kind: 'everyone' },
  };
  const session = await call('POST /sessions/trial', moment);
  expect(session.body).toMatchObject({ never: null });
  expect((session.body as unknown as { starts: string[] }).starts.length).toBeGreaterThan(1);
  const text = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:x',
    'BEGIN:VEVENT',
    'UID:1',
    'DTSTAMP:20260101T000000Z',
    `DTSTART:${new Date(Date.now() + 5 * DAY_MS).toISOString().slice(0, 10).replaceAll('-', '')}T100000Z`,
    'SUMMARY:A walk',
    'END:VEVENT',
    'END:VCALENDAR',
  ].join('\r\n');
  expect((await call('POST /followed-calendars/trial', { url: null, text })).body).toMatchObject({
    total: 1,
    sessions: [{ title: 'A walk' }],
  });
  const filled = await call('POST /outside-places/trial', { template: '{"text": "{{ title }}"}' });
  expect(JSON.parse((filled.body as unknown as { body: string }).body)).toHaveProperty('text');
  const foreseen = await call('GET /retention/foreseen?kind=runs&days=90');
  expect(foreseen.body).toMatchObject({ kind: 'runs', days: 90, n: 0 });
  expect((await call('GET /retention/foreseen?kind=runs&days=91')).status).toBe(422);
}

/** What is ahead: whom a plan would reach, how full the days are, and one date of what recurs written before its turn. */
export async function ahead({ db, call }: Caller): Promise<void> {
  const brief = { importance: 'routine', event: null, fields: [], mentions: [], sections: 1 };
  const forecast = await call('POST /forecast', {
    plan: { ...EMPTY_PLAN, audience: { kind: 'station', id: 1 } },
    brief,
  });
  expect(forecast.body).toMatchObject({ right: { outcome: 'allowed' }, problems: [] });
  expect(forecast.body.people).toBe(
    await countOf(db, "FROM people WHERE station_id = 1 AND standing <> 'left'"),
  );
  const startMs = Date.now() + 2 * DAY_MS;
  const written = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'Each week' }),
    plan({
      audience: { kind: 'station', id: 1 },
      timing: {
        kind: 'recurring',
        start: wallAt(startMs, 'UTC'),
        zone: 'UTC',
        rule: WEEKLY,
        passed: 'not',
      },
    }),
    'draft',
  );
  const key = 'each-week-by-api';
  const { occurrenceId } = await confirmSend(db, coordinator, written, { revision: 1 }, key);
  const coming = (await call(`GET /sends/${occurrenceId}/coming`)).body.items as unknown as {
    occurrenceId: number | null;
    recursAt: string;
  }[];
  const unwritten = coming.find((each) => each.occurrenceId === null);
  const one = await call(`POST /sends/${occurrenceId}/coming`, { recursAt: unwritten!.recursAt });
  expect((await call(`GET /sends/${one.body.occurrenceId}`)).body.state).toBe('scheduled');
  const changing = await call(`POST /sends/${occurrenceId}/change`);
  expect((await call(`GET /announcements/${changing.body.announcementId}`)).body).toMatchObject({
    content: { title: 'Each week' },
  });
  const [from, to] = [startMs - DAY_MS, startMs + 10 * DAY_MS].map((ms) => new Date(ms).toISOString());
  expect((await call(`GET /strain?from=${from}&to=${to}`)).body).toHaveProperty('days');
  expect((await call(`GET /strain?from=${to}&to=${from}`)).status).toBe(422);
  expect((await call('GET /hours')).body).toHaveProperty('lines');
  const event = eventSchema.parse({
    wall: wallAt(startMs, 'UTC'),
    zone: 'UTC',
    minutes: 60,
    place: 'The vault',
    link: '',
    signUp: true,
  });
  const walk = await sendNow(db, { audience: { kind: 'station', id: 1 } }, { title: 'A walk', event });
  await expandNow(db, walk);
  const board = await call(`POST /sends/${walk}/board`);
  expect((await call(`POST /sends/${walk}/board`)).body).toEqual(board.body);
}

/** Several people at once, who reads along, who may do what, and who is not known elsewhere. */
export async function directory({ db, call }: Caller): Promise<void> {
  const [one = 0, two = 0, three = 0] = await addPeople(db, 3);
  const moved = await call('POST /people/together', {
    ids: [one, two],
    act: { kind: 'to station', stationId: 2 },
  });
  expect(moved.body).toMatchObject({ changed: [one, two] });
  expect(await countOf(db, 'FROM people WHERE id IN (?, ?) AND station_id = 2', [one, two])).toBe(2);
  const along = { name: 'Ida Quill', mail: 'ida.quill@x.example', relation: 'delegate' };
  expect((await call(`POST /people/${one}/contacts`, along)).body.items).toMatchObject([along]);
  expect((await call(`GET /people/${one}/contacts`)).body.items).toMatchObject([along]);
  await db('people')
    .where({ id: two })
    .update({ mail_failing: db.ref('mail'), mail_failing_reason: '550' });
  await call(`DELETE /people/${two}/mail-trouble`);
  expect(await countOf(db, 'FROM people WHERE id = ? AND mail_failing IS NULL', [two])).toBe(1);
  const to = { kind: 'people', ids: [three] };
  expect((await call('POST /invitations/count', { to })).body).toMatchObject({ invited: 1 });
  await call('POST /invitations', { to, words: '' });
  expect((await call('POST /invitations/withdrawal', { ids: [three] })).body).toEqual({ withdrawn: 1 });
  expect((await call('GET /rights')).body).toMatchObject({
    coordinators: expect.arrayContaining([expect.objectContaining({ id: 1 })]) as object,
  });
  await call(`POST /people/${one}/identities`, { system: 'doors', value: 'd.1' });
  expect((await call('GET /identities')).body).toMatchObject({
    systems: expect.arrayContaining([{ system: 'doors', people: 1 }]) as object,
  });
  const lacking = await call('GET /identities/lacking?system=doors');
  expect(lacking.body.items.some(({ id }) => id === one)).toBe(false);
  expect(lacking.body.items.length).toBeGreaterThan(0);
  const group = await addGroup(db, 'Those who are brought', []);
  const brought = { name: 'Somebody New', mail: 'somebody.new@x.example' };
  expect((await call(`POST /groups/${group}/brought`, brought)).body).toMatchObject({ became: 'is invited' });
  const ruled = (await call('POST /groups', { name: 'Southerners', rule: { kind: 'station', id: 2 } })).body
    .id;
  const rule = { rule: { kind: 'station', id: 1 }, on: null };
  expect((await call(`POST /groups/${ruled}/rule-trial`, rule)).body).toHaveProperty('comesIn');
}

/** A board's files, who is on it, and what is reported; texts as they were. */
export async function boardDesk({ db, people, call }: Caller): Promise<void> {
  const board = await insertBoard(db, {
    name: 'Lanterns',
    about: '',
    groupId: null,
    ...PRESETS.talk.switches,
    ownerId: coordinator.id,
    takesThanks: false,
    position: 2,
  });
  const file = await call('POST /uploads', {
    as: 'file',
    name: 'lanterns.csv',
    data: Buffer.from('name,oil\nOne,2\n').toString('base64'),
  });
  const by = { ...coordinator, id: people[5] ?? 0, role: 'member' as const };
  const post = await writePost(
    db,
    by,
    board,
    newPostSchema.parse({ title: 'Which are lit', document: documentOfMarkdown('Three.') }),
    'lanterns-by-api',
  );
  const mine = await call(`POST /boards/${board}/posts`, {
    title: 'The list',
    text: 'Here it is.',
    files: [{ key: file.body.key, name: file.body.name, mime: file.body.mime, bytes: file.body.bytes }],
  });
  expect((await call(`GET /boards/${board}/files`)).body.items).toMatchObject([
    { name: 'lanterns.csv', archived: false },
  ]);
  await call(`PUT /boards/${board}/files`, { key: file.body.key, archived: true });
  expect((await call(`GET /boards/${board}/files`)).body.items).toMatchObject([{ archived: true }]);
  expect((await call(`GET /boards/${board}/reach`)).body.people).toBeGreaterThan(50);
  expect((await call(`GET /boards/${board}/members?q=zzz`)).body.items).toEqual([]);
  expect((await call(`GET /boards/${board}/members`)).body.items.length).toBeGreaterThan(10);
  await call(`PUT /posts/${mine.body.id}`, { title: 'The list', text: 'Here it is, mended.' });
  expect((await call(`GET /posts/${mine.body.id}/texts`)).status).toBe(200);
  await call(`POST /posts/${post.id}/report`, { reason: 'It is about somebody else.' });
  expect(await countOf(db, "FROM reports WHERE subject = 'post' AND subject_id = ?", [post.id])).toBe(1);
  const reply = await call(`POST /posts/${post.id}/replies`, { text: 'Four by now.' });
  await db('replies').where({ id: reply.body.id }).update({ author_id: people[6] });
  await call(`POST /replies/${reply.body.id}/report`, { reason: 'It is not true.' });
  expect(await countOf(db, "FROM reports WHERE subject = 'reply' AND subject_id = ?", [reply.body.id])).toBe(
    1,
  );
}

/** Texts as files and as they were before; what others said in answer. */
export async function texts({ db, people, call }: Caller): Promise<void> {
  const file = '---\ntitle: The store is open\n---\n\nFrom **nine** on.\n';
  const begun = await call('POST /announcements/from-file', { text: file });
  const at = `/announcements/${begun.body.id}`;
  expect((await call(`GET ${at}`)).body).toMatchObject({ content: { title: 'The store is open' } });
  expect((await call('POST /announcements/from-file', { text: '---\ntitle: [\n---\n' })).status).toBe(422);
  await call(`POST ${at}/comments`, { text: 'From ten on.', mentions: [] });
  const [comment] = (await call(`GET ${at}/comments`)).body.items;
  await call(`PUT ${at}/comments/${comment?.id ?? 0}`, { settled: true });
  expect(await countOf(db, 'FROM comments WHERE id = ? AND settled_at IS NOT NULL', [comment?.id])).toBe(1);
  const poll = await sendNow(
    db,
    {
      ask: askSchema.parse({
        kind: 'poll',
        chase: null,
        deadline: null,
        within: null,
        poll: {
          ...EMPTY_POLL,
          question: 'Which lamp?',
          options: ['Brass', 'Tin'].map((label) => ({ label, at: null })),
        },
      }),
      mail: false,
      audience: { kind: 'station', id: 1 },
    },
    { title: 'Lamps' },
  );
  await expandNow(db, poll);
  const [one] = await rows<{ id: number }>(
    db,
    "SELECT id FROM people WHERE station_id = 1 AND standing = 'active' AND id IN (?, ?, ?) LIMIT 1",
    people.slice(30, 33),
  );
  await answer(db, SECRET, one!.id, poll, { choices: [1] }, 'page');
  expect((await call(`GET /asks/${poll}/ballots`)).body.items).toMatchObject([
    { personId: one!.id, words: 'Brass' },
  ]);
  const [kept] = await rows<{ id: number; version: number }>(
    db,
    `SELECT v.announcement_id AS id, v.id AS version FROM announcement_versions v JOIN sends s ON s.version_id = v.id
     JOIN occurrences o ON o.send_id = s.id WHERE o.id = ?`,
    [poll],
  );
  const was = `/announcements/${kept!.id}`;
  expect((await call(`GET ${was}/texts/${kept!.version}`)).body).toMatchObject({ title: 'Lamps' });
  expect((await call(`GET ${was}/changes/${kept!.version}`)).body.items.length).toBeGreaterThan(0);
  const text = async (as: string) => {
    const read = (await call(`GET /sends/${poll}/text?as=${as}`)).body as unknown as { data: string };
    return Buffer.from(read.data, 'base64').toString('utf8');
  };
  expect(await text('md')).toContain('title: "Lamps"');
  expect(await text('eml')).toMatch(/^Subject: Lamps\r?$/m);

  await db('people').update({ work_days: 127 });
  const checkIn = await sendNow(
    db,
    {
      ask: askSchema.parse({
        kind: 'check-in',
        chase: null,
        deadline: null,
        within: 6,
        questions: [{ kind: 'text', text: 'What is next?', part: 'next' }],
      }),
      audience: { kind: 'station', id: 1 },
    },
    { title: 'At noon' },
  );
  await expandNow(db, checkIn);
  await answer(db, SECRET, one!.id, checkIn, { answers: { 0: 'The wicks' } }, 'page');
  expect((await call(`GET /check-ins/${checkIn}/history?search=wicks`)).body.items).toMatchObject([
    { personId: one!.id, answers: { 0: 'The wicks' } },
  ]);
}
