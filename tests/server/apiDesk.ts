import sharp from 'sharp';
import { expect } from 'vitest';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { askSchema } from '../../src/core/asks/ask.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { EMPTY_POLL, type Poll } from '../../src/core/asks/poll/poll.ts';
import { newPostSchema } from '../../src/core/boards/board.ts';
import { documentOfMarkdown } from '../../src/core/content/markdown.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { setAside } from '../../src/server/aside/store.ts';
import { makeToken } from '../../src/server/api/tokens.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { expandNow } from './expandNow.ts';
import { content, coordinator, countOf, followAll, plan, SECRET, sendNow } from './world.ts';

interface Answer {
  id: number;
  state: string;
  key: string;
  width: number;
  height: number;
  mime: string;
  name: string;
  bytes: number;
  text: string;
  people: number;
  occurrenceId: number;
  announcementId: number;
  missingCount: number;
  errors: { field: string }[];
  dates: { id: number }[];
  said: unknown;
  replies: unknown;
  sendId: number;
  poll: unknown;
  figures: { asked: number };
  items: { id: number; name?: string; mail?: string; text?: string; question?: string }[];
}
export interface Caller {
  db: Database;
  people: number[];
  /** Calls the API with an Idempotency-Key of its own, and holds the answer against the description. */
  call: (request: string, body?: unknown) => Promise<{ status: number; body: Answer }>;
  /** Origins on the internal network that may be asked. */
  inside: string[];
}

const base64 = (bytes: Buffer): string => bytes.toString('base64');

/** Uploads, posts with pictures, replies, reactions, reports. */
export async function conversation({ db, people, call }: Caller): Promise<void> {
  const png = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#246' } })
    .png()
    .toBuffer();
  const image = await call('POST /uploads', { as: 'image', name: 'vault.png', data: base64(png) });
  expect(image.body).toMatchObject({ width: 40, height: 30 });
  // More than any other body may have.
  const list = Buffer.from('name,grams\n'.repeat(200_000));
  const file = await call('POST /uploads', { as: 'file', name: 'list.csv', data: base64(list) });
  expect(file.body).toMatchObject({ name: 'list.csv', bytes: list.byteLength });
  expect(
    (await call('POST /uploads', { as: 'image', name: 'x.png', data: base64(Buffer.from('none')) })).status,
  ).toBe(422);
  const large = await call('POST /uploads', {
    as: 'file',
    name: 'x.txt',
    data: base64(Buffer.alloc(10_000_001, 97)),
  });
  expect([large.status, large.body.errors]).toEqual([
    413,
    [{ field: 'data', detail: expect.any(String) as string }],
  ]);

  const board = async (name: string): Promise<number> =>
    (await call('POST /boards', { name, about: 'x', purpose: 'talk', groupId: null })).body.id;
  const [first, second] = [await board('With pictures'), await board('Passed on')];
  const { key, width, height } = image.body;
  const post = await call(`POST /boards/${first}/posts`, {
    title: 'The vault',
    text: 'As it **is**.',
    image: { key, width, height, alt: 'A vault', placement: 'whole', focus: { x: 50, y: 50 } },
    files: [{ key: file.body.key, name: file.body.name, mime: file.body.mime, bytes: file.body.bytes }],
  });
  const at = `/posts/${post.body.id}`;
  const [stored] = await rows<{ sections: string }>(
    db,
    'SELECT v.body AS sections FROM posts o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ?',
    [post.body.id],
  );
  expect(stored?.sections).toContain(key);
  expect(stored?.sections).toContain(file.body.key);
  expect((await call(`PUT ${at}`, { title: 'The vault', text: 'As it was.' })).body.state).toBe('up');
  expect((await call(`GET ${at}`)).body.text).toContain('As it was.');
  const reply = await call(`POST ${at}/replies`, { text: 'Good.' });
  await call(`PUT /replies/${reply.body.id}`, { text: 'Better.' });
  expect((await call(`GET ${at}/replies`)).body.items).toMatchObject([{ text: 'Better.' }]);
  await call(`POST /replies/${reply.body.id}/decision`, { to: 'hidden', note: 'Not here.' });
  expect((await call(`GET ${at}/replies`)).body.items).toEqual([]);
  const gone = await call(`POST ${at}/replies`, { text: 'Never mind.' });
  await call(`DELETE /replies/${gone.body.id}`);
  expect((await call(`GET ${at}/replies`)).body.items).toEqual([]);
  const passed = await call(`POST ${at}/pass-on`, { boardId: second, text: 'Look.' });
  expect((await call(`GET /boards/${second}/posts`)).body.items).toMatchObject([{ id: passed.body.id }]);
  await call('PUT /reactions', { subject: 'post', id: post.body.id, kind: 'heard', given: true });
  expect(await countOf(db, "FROM reactions WHERE subject = 'post' AND subject_id = ?", [post.body.id])).toBe(
    1,
  );
  // Nobody deals with a report of their own text.
  const theirs = await writePost(
    db,
    { id: people[1] ?? 0, role: 'member', moderates: new Set(), mayReach: new Set() },
    first,
    newPostSchema.parse({ title: 'By a member', document: documentOfMarkdown('x') }),
    'a-post-of-a-member',
  );
  const [report] = await db('reports').insert({
    subject: 'post',
    subject_id: theirs.id,
    board_id: first,
    reporter_id: people[0],
    reason: 'Wrong vault',
  });
  expect((await call(`GET /boards/${first}/reports`)).body.items).toMatchObject([
    { id: report, subjectId: theirs.id, reason: 'Wrong vault' },
  ]);
  expect((await call(`POST /reports/${report}/settlement`)).status).toBe(204);
  expect((await call(`GET /boards/${first}/reports`)).body.items).toEqual([]);
  await followAll(db);
  expect((await call('GET /search?q=by+a+member')).body.items).toMatchObject([
    { path: `/posts/${theirs.id}` },
  ]);
  expect((await call(`DELETE ${at}`)).status).toBe(204);
  expect((await call(`GET ${at}`)).status).toBe(404);
}

/** Check-ins read and replied to, those who lack chased, what failed tried again. */
export async function checkIns({ db, people, call }: Caller): Promise<void> {
  // A check-in goes to nobody on a day on which they do not work.
  await db('people').update({ work_days: 127 });
  const id = await sendNow(
    db,
    {
      ask: askSchema.parse({
        kind: 'check-in',
        chase: null,
        deadline: null,
        within: 6,
        questions: [{ kind: 'blocked', text: 'What blocks you?' }],
      }),
      audience: { kind: 'station', id: 1 },
    },
    { title: 'This morning' },
  );
  await expandNow(db, id);
  const one = people[0] ?? 0;
  await answer(db, SECRET, one, id, { answers: { 0: 'The pump stands' } }, 'page');
  const page = await call(`GET /check-ins/${id}`);
  expect(page.body.said).toMatchObject([{ personId: one, answers: { 0: 'The pump stands' }, blocked: true }]);
  expect(page.body.missingCount).toBeGreaterThan(50);
  const at = `/check-ins/${id}/people/${one}`;
  await call(`POST ${at}/replies`, { text: 'I bring another at four.' });
  await call(`POST ${at}/unblocked`);
  const thread = await call(`GET ${at}`);
  expect(thread.body.replies).toMatchObject([{ text: 'I bring another at four.' }]);

  const acknowledged = await sendNow(db, {
    ask: {
      kind: 'acknowledgement',
      statement: 'Read',
      deadline: null,
      chase: USUAL_CHASE,
      within: null,
      joiners: false,
    },
    mail: false,
    audience: { kind: 'station', id: 1 },
  });
  await expandNow(db, acknowledged);
  const chased = await call(`POST /asks/${acknowledged}/chase`);
  expect(chased.body.people).toBeGreaterThan(50);
  expect((await call(`POST /asks/${id + 100_000}/chase`)).status).toBe(404);
  expect((await call(`POST /sends/${acknowledged}/retry`)).body).toEqual({ again: 0 });
}

/** What came of a poll, whom its send reached, and what of the work on it failed. */
export async function outcomes({ db, people, call }: Caller): Promise<void> {
  const poll = (part: Partial<Poll>): Promise<number> =>
    sendNow(db, {
      ask: askSchema.parse({
        kind: 'poll',
        chase: null,
        deadline: null,
        within: null,
        poll: { ...EMPTY_POLL, question: 'Which day?', ...part },
      }),
      mail: false,
      audience: { kind: 'station', id: 1 },
    });
  const options = ['Monday', 'Tuesday'].map((label) => ({ label, at: null }));
  const open = await poll({ options });
  const secret = await poll({ options, anonymous: true });
  const rated = await poll({ kind: 'rating', options: [], scale: 5 });
  for (const each of [open, secret, rated]) await expandNow(db, each);
  const [one = 0, two = 0] = people;
  for (const id of [open, secret]) await answer(db, SECRET, one, id, { choices: [2] }, 'page');
  await answer(db, SECRET, one, rated, { rating: 4 }, 'page');
  const added = await call(`POST /asks/${open}/options`, { label: 'Wednesday' });
  expect(added.body).toEqual({ id: 3 });
  expect((await call(`POST /asks/${open}/options`, { label: 'Monday' })).status).toBe(422);
  await answer(db, SECRET, two, open, { choices: [3] }, 'page');
  const results = await call(`GET /asks/${open}/results`);
  expect(results.body.poll).toMatchObject({
    question: 'Which day?',
    options: [{ words: 'Monday' }, { words: 'Tuesday' }, { id: 3, words: 'Wednesday' }],
    outcome: { voted: 2, counts: [{ votes: 0 }, { votes: 1 }, { option: 3, votes: 1 }], leading: [2, 3] },
    stations: [{ answered: 2 }],
  });
  // Of fewer than five votes without names nothing is told, here neither.
  expect((await call(`GET /asks/${secret}/results`)).body).toMatchObject({
    poll: { outcome: null, hidden: expect.stringMatching(/votes/) as string, stations: null },
    curve: [],
  });
  expect((await call(`GET /asks/${rated}/results`)).body.poll).toMatchObject({
    outcome: {
      rating: { mean: 4, median: 4 },
      counts: expect.arrayContaining([{ option: 4, votes: 1 }]) as object,
    },
  });
  const figures = await call(`GET /sends/${open}/figures`);
  expect(figures.body.figures).toMatchObject({ id: open, answered: 2, failed: 0 });
  expect(figures.body.figures).toHaveProperty('reached', figures.body.figures.asked);
  expect((await call(`GET /sends/${open + 100_000}/figures`)).status).toBe(404);
  expect((await call(`POST /sends/${open}/put-back`)).status).toBe(409);
  // One of what recurs is skipped, and goes after all.
  const written = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'Every day' }),
    plan({
      audience: { kind: 'station', id: 1 },
      timing: {
        kind: 'recurring',
        start: wallAt(Date.now() + 2 * 86_400_000, 'UTC'),
        zone: 'UTC',
        rule: { ...WEEKLY, freq: 'daily' },
        passed: 'not',
      },
    }),
    'draft',
  );
  const { occurrenceId: daily } = await confirmSend(
    db,
    coordinator,
    written,
    { revision: 1 },
    'every-day-by-api',
  );
  await call(`POST /sends/${daily}/take-back`);
  expect((await call(`GET /sends/${daily}`)).body.state).toBe('recalled');
  expect((await call(`POST /sends/${daily}/put-back`)).status).toBe(204);
  expect((await call(`GET /sends/${daily}`)).body.state).toBe('scheduled');

  await setAside(db, 'closing', open, open, new Error('The pump stands'));
  expect((await call('GET /set-aside')).body.items).toMatchObject([
    { kind: 'closing', id: open, sendId: open, reason: expect.stringContaining('The pump stands') as string },
  ]);
  expect((await call('POST /set-aside/again', { kind: 'closing', id: open })).status).toBe(204);
  expect((await call('GET /set-aside')).body.items).toEqual([]);
  expect((await call('POST /set-aside/again', { kind: 'closing', id: open })).body.errors).toMatchObject([
    { field: 'id' },
  ]);
}

/** Tokens listed without what they are, and one revoked that is not the one this is called with. */
export async function tokens({ db, call }: Caller): Promise<void> {
  const { id: other } = await makeToken(db, coordinator, {
    name: 'Another program',
    scopes: ['asks:read'],
    days: 7,
  });
  const found = (await call('GET /tokens')).body.items;
  expect(found).toContainEqual(expect.objectContaining({ id: other, name: 'Another program', mine: true }));
  expect(JSON.stringify(found)).not.toContain('clearbell_');
  expect((await call(`DELETE /tokens/${other}`)).status).toBe(204);
  expect((await call(`DELETE /tokens/${other}`)).status).toBe(404);
}

/** Groups, the directory and the settings of the organisation. */
export async function settings({ db, people, call }: Caller): Promise<void> {
  const group = (await call('POST /groups', { name: 'By the door', rule: { kind: 'station', id: 2 } })).body
    .id;
  await call(`PUT /groups/${group}/kind`, { kind: 'fixed' });
  await call(`PUT /groups/${group}/door`, {
    joining: 'asked',
    ownerBrings: true,
    about: 'Those at the door.',
  });
  await db('group_requests').insert({ group_id: group, person_id: people[110] });
  await call(`PUT /groups/${group}/requests/${people[110]}`, { letIn: true });
  expect(
    await countOf(db, 'FROM group_members WHERE group_id = ? AND person_id = ?', [group, people[110]]),
  ).toBe(1);
  const editor = people[111] ?? 0;
  await db('people').where({ id: editor }).update({ role: 'editor' });
  await call(`PUT /people/${editor}/reach`, { groupIds: [group] });
  expect(await countOf(db, 'FROM editor_reach WHERE person_id = ? AND group_id = ?', [editor, group])).toBe(
    1,
  );
  await call(`PUT /groups/${group}/clearance`, { needed: true });
  await call(`PUT /groups/${group}/calling`, { callable: true });
  await call(`PUT /groups/${group}/bundling`, { bundling: 'daily' });
  expect(
    await rows(
      db,
      'SELECT kind, joining, about, needs_clearance AS c, callable, bundling FROM `groups` WHERE id = ?',
      [group],
    ),
  ).toMatchObject([
    { kind: 'fixed', joining: 'asked', about: 'Those at the door.', c: 1, callable: 1, bundling: 'daily' },
  ]);

  const [one, other] = [people[100] ?? 0, people[101] ?? 0];
  const identity = await call(`POST /people/${one}/identities`, { system: 'loans', value: 'o.ne' });
  const names = { system: 'loans', rows: [{ line: 2, who: 'nobody@example.org', value: 'n.n' }], keep: true };
  expect((await call('POST /identities', names)).body).toMatchObject({ made: 0, leftOut: 1 });
  expect((await call(`GET /people/${one}/identities`)).body.items).toMatchObject([{ id: identity.body.id }]);
  expect((await call(`POST /people/${other}/identities`, { system: 'loans', value: 'O.ne' })).status).toBe(
    422,
  );
  await call(`DELETE /people/${one}/identities/${identity.body.id}`);
  const address = await call(`POST /people/${one}/addresses`, { mail: 'at.home@x.example' });
  const second = address.body.items.at(-1)?.id ?? 0;
  await call(`PUT /people/${one}/addresses/${second}`);
  const left = await call(`GET /people/${one}/addresses`);
  for (const each of left.body.items) await call(`DELETE /people/${one}/addresses/${each.id}`);
  expect((await call(`GET /people/${one}/addresses`)).body.items).toEqual([]);
  expect(await rows(db, 'SELECT mail FROM people WHERE id = ?', [one])).toEqual([
    { mail: 'at.home@x.example' },
  ]);
  await call(`PUT /people/${one}/absence`, { from: '2090-03-09', until: null });
  await call(`DELETE /people/${one}/absence`);
  const named = async (id: number): Promise<string> =>
    (await rows<{ name: string }>(db, 'SELECT name FROM people WHERE id = ?', [id]))[0]?.name ?? '';
  const wrong = await call(`POST /people/${one}/merge`, { otherId: other, name: 'Somebody else' });
  expect(wrong.status).toBe(422);
  await call(`POST /people/${one}/merge`, { otherId: other, name: await named(other) });
  expect(await rows(db, 'SELECT merged_into AS n FROM people WHERE id = ?', [other])).toEqual([{ n: one }]);
  const leaver = people[102] ?? 0;
  await db('people')
    .where({ id: leaver })
    .update({ standing: 'left', left_at: db.raw('NOW(3)') });
  expect((await call(`POST /people/${leaver}/erasure`, { name: await named(leaver) })).status).toBe(204);

  expect((await call('GET /organisation')).body.name).toBe('Test Network');
  expect((await call('PUT /organisation', { name: 'Test Network', zone: 'Nowhere/Else' })).status).toBe(422);
  await call('PUT /organisation', { name: 'Tested Network', zone: 'UTC' });
  await call('PUT /organisation', { name: 'Test Network', zone: 'UTC' });
  await call('PUT /organisation/quiet-hours', { quiet: { from: '22:00', to: '07:00' } });
  await call('PUT /organisation/quiet-hours', { quiet: null });
  await call('PUT /organisation/bundling', { bundling: 'as it comes' });
  const holiday = await call('POST /holidays', { on: '2090-05-01', name: 'A day of rest', stationId: null });
  await call(`DELETE /holidays/${holiday.body.id}`);
  await db('people').where({ id: one }).update({ occupation: 'fitter' });
  await call('PUT /kinds-of-people/occupations', { from: 'fitter', to: 'pump fitter' });
  await call('PUT /kinds-of-people/attributes', {
    from: null,
    name: 'shoe size',
    kind: 'number',
    choices: [],
  });
  const kinds = await call('GET /kinds-of-people');
  expect(JSON.stringify(kinds.body)).toMatch(/"pump fitter".*"shoe size"/);
  await call('POST /kinds-of-people/attributes/removal', { name: 'shoe size' });
  const ribbon = await call('POST /ribbons', { name: 'Kept it lit', emblem: 'lamp', colour: 'ochre' });
  await call(`POST /ribbons/${ribbon.body.id}/state`, { retired: true });
  const station = async (name: string): Promise<number> =>
    (await call('POST /stations', { name, zone: 'UTC' })).body.items.find((each) => each.name === name)?.id ??
    0;
  const [from, into] = [await station('From here'), await station('Into this')];
  await call(`PUT /stations/${from}`, { name: 'From there', zone: 'Europe/London' });
  await call(`POST /stations/${from}/state`, { retired: true });
  await call(`POST /stations/${from}/merge`, { into });
  expect((await call(`DELETE /stations/${into}`)).status).toBe(204);
  expect((await call('DELETE /stations/1')).status).toBe(409);
}

/** The shelf: asked, answered for one and for all, closed. */
export async function shelf({ db, call }: Caller): Promise<void> {
  const subject = (await call('POST /shelf/subjects', { name: 'Drying rooms', parentId: null })).body.id;
  expect((await call('GET /shelf/subjects')).body.items).toMatchObject([{ id: subject }]);
  const [first, second, third] = [
    (await call('POST /shelf/questions', { text: 'Who has the key of the drying room?' })).body.id,
    (await call('POST /shelf/questions', { text: 'Where is that key?' })).body.id,
    (await call('POST /shelf/questions', { text: 'Why is it cold?' })).body.id,
  ];
  expect((await call('GET /shelf/questions')).body.items.map(({ id }) => id).sort()).toEqual([
    first,
    second,
    third,
  ]);
  const made = await call('POST /shelf/answers', {
    question: 'Who has the key of the drying room?',
    text: 'The *keyholder* of the week.',
    subjectId: subject,
    published: false,
    settles: first,
  });
  const at = `/shelf/answers/${made.body.id}`;
  expect((await call(`GET /shelf/subjects/${subject}/answers`)).body.items).toEqual([]);
  await call(`POST ${at}/publish`);
  expect((await call(`GET /shelf/subjects/${subject}/answers`)).body.items).toMatchObject([
    { id: made.body.id },
  ]);
  await followAll(db);
  expect((await call('GET /shelf/best?text=key+of+the+drying+room')).body.items[0]).toMatchObject({
    id: made.body.id,
  });
  await call(`PUT ${at}`, {
    question: 'Who has the key?',
    text: 'Whoever is keyholder.',
    subjectId: subject,
    published: true,
  });
  expect((await call(`GET ${at}`)).body).toMatchObject({
    question: 'Who has the key?',
    text: 'Whoever is keyholder.',
  });
  await call(`POST /shelf/questions/${second}/answer`, { answerId: made.body.id });
  expect((await call(`POST /shelf/questions/${third}/close`, { reason: 'x' })).status).toBe(422);
  await call(`POST /shelf/questions/${third}/close`, { reason: 'The heating is off until Monday.' });
  expect((await call('GET /shelf/questions')).body.items).toEqual([]);
  expect((await call(`DELETE ${at}`)).status).toBe(204);
  expect((await call(`GET ${at}`)).status).toBe(404);
}

/** Drafts copied, kept as templates and talked about; audiences kept under a name. */
export async function drafts({ db, people, call }: Caller): Promise<void> {
  const made = await call('POST /announcements', { content: { title: 'Kept', sections: [{ text: 'x' }] } });
  const at = `/announcements/${made.body.id}`;
  const template = await call(`POST ${at}/template`);
  expect((await call('GET /templates')).body.items).toMatchObject([{ id: template.body.id, title: 'Kept' }]);
  const copy = await call(`POST /announcements/${template.body.id}/copy`);
  expect((await call(`GET /announcements/${copy.body.id}`)).body).toMatchObject({
    content: { title: 'Kept' },
  });
  await call(`POST ${at}/comments`, { text: 'The date is wrong.', mentions: [] });
  expect((await call(`GET ${at}/comments`)).body.items).toMatchObject([{ text: 'The date is wrong.' }]);
  const editor = people[2] ?? 0;
  await db('people').where({ id: editor }).update({ role: 'editor', name: 'Edda' });
  const sharedWith = { personId: editor, shared: true };
  expect((await call(`PUT ${at}/sharing`, sharedWith)).body.items).toEqual([
    { personId: editor, name: 'Edda' },
  ]);
  expect((await call(`PUT ${at}/sharing`, { personId: people[3], shared: true })).status).toBe(422);
  expect((await call(`GET ${at}/sharing`)).body.items).toHaveLength(1);
  expect((await call(`PUT ${at}/sharing`, { ...sharedWith, shared: false })).body.items).toEqual([]);
  expect((await call(`GET ${at}/reviewers`)).status).toBe(200);
  expect((await call(`GET ${at}/history`)).body.items).toMatchObject([
    { deed: 'share no longer' },
    { deed: 'share for comments' },
    { deed: 'comment' },
  ]);
  const test = await call(`POST ${at}/test`);
  expect(
    await countOf(
      db,
      "FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.id = ? AND s.kind = 'test'",
      [test.body.sendId],
    ),
  ).toBe(1);
  await db('people').where({ id: editor }).update({ role: 'member' });
  const kept = await call('POST /audiences', { name: 'Northerners', audience: { kind: 'station', id: 1 } });
  expect(kept.body.items).toMatchObject([{ name: 'Northerners', audience: { kind: 'station', id: 1 } }]);
  await call(`DELETE /audiences/${kept.body.items[0]?.id ?? 0}`);
  expect((await call('GET /audiences')).body.items).toEqual([]);
}

/** One date of a session moved, called off, announced and answered; sources; thanks. */
export async function dates({ db, people, call }: Caller): Promise<void> {
  const session = await call('POST /sessions', {
    title: 'Lamps',
    text: 'Wicks and oil.',
    wall: '2090-03-06T10:00',
    zone: 'Europe/London',
    minutes: 60,
    place: 'The vault',
    link: '',
    rule: null,
    audience: { kind: 'everyone' },
    capacity: 20,
    remindMinutes: null,
  });
  const date = session.body.dates[0]?.id ?? 0;
  const at = `/session-dates/${date}`;
  const where = { minutes: 90, place: 'The loft', link: '' };
  expect((await call(`PUT ${at}`, { ...where, wall: 'noon', note: '' })).status).toBe(422);
  await call(`PUT ${at}`, { ...where, wall: '2090-03-06T11:00', note: 'An hour later.' });
  await call(`PUT ${at}/answer`, { said: 'yes' });
  expect((await call(`GET ${at}/people?stands=yes`)).body.items).toMatchObject([{ personId: 1 }]);
  const draft = await call(`POST ${at}/announcement`);
  expect((await call(`GET /announcements/${draft.body.id}`)).body).toMatchObject({
    content: { title: 'Lamps' },
  });
  const board = await call(`POST ${at}/board`);
  await call(`POST ${at}/call-off`, { note: 'The road is under water.' });
  expect((await call(`GET /sessions/${session.body.id}`)).body.dates).toMatchObject([
    { calledOff: true, place: 'The loft' },
  ]);
  await call(`DELETE ${at}/call-off`);
  expect((await call(`GET /sessions/${session.body.id}`)).body.dates).toMatchObject([{ calledOff: false }]);

  const source = {
    name: 'Conditions',
    url: 'https://conditions.example/at?place={place}',
    header: '',
    fields: [{ name: 'level', pointer: '/level', kind: 'number', unit: 'cm' }],
    keepMinutes: 10,
  };
  const kept = await call('POST /sources', { source, secret: '' });
  await call(`PUT /sources/${kept.body.id}`, {
    source: { ...source, name: 'Conditions at the sites' },
    secret: '',
  });
  expect(await rows(db, 'SELECT name FROM sources WHERE id = ?', [kept.body.id])).toEqual([
    { name: 'Conditions at the sites' },
  ]);

  const ribbon = await call('POST /ribbons', { name: 'Bright lamps', emblem: 'lamp', colour: 'ochre' });
  await db('boards').where({ id: board.body.id }).update({ takes_thanks: true, group_id: null });
  const thanks = await call('POST /thanks', {
    ribbonId: ribbon.body.id,
    to: [people[3]],
    sentence: 'For the lamps that were lit all night.',
    boardId: board.body.id,
  });
  expect((await call(`GET /posts/${thanks.body.id}`)).status).toBe(200);
}

/** A place kept as a pattern, one made from it, changed, and taken back. */
export async function patterns({ db, people, call }: Caller): Promise<void> {
  const { id: boardId } = (
    await call('POST /boards', {
      name: 'Ash crew',
      about: 'For the Ash crew',
      purpose: 'talk',
      groupId: null,
    })
  ).body;
  const look = (await call(`GET /boards/${boardId}/pattern`)).body as unknown as { parts: { key: string }[] };
  const kept = { called: 'Ash crew', parts: look.parts.map(({ key }) => key), blanks: [] };
  const { id } = (await call('POST /patterns', { name: 'A crew', about: '', boardId, ...kept })).body;
  await call(`PUT /patterns/${id}`, { name: 'A field crew', about: '' });
  expect((await call('GET /patterns')).body.items).toMatchObject([
    { name: 'A field crew', holds: { board: 1 } },
  ]);
  const answers = { name: 'Elm crew', ownerId: people[0], given: {}, atWork: true };
  const before = await countOf(db, 'FROM boards');
  expect((await call(`POST /patterns/${id}/look`, { answers })).body).toMatchObject({
    errors: [],
    parts: [{ name: 'Elm crew', problem: null }],
  });
  expect(await countOf(db, 'FROM boards')).toBe(before);
  const place = `/places/${(await call(`POST /patterns/${id}/places`, { number: 1, answers })).body.id}`;
  await call(`PATCH /boards/${boardId}/settings`, { about: 'What the Ash crew hears' });
  expect((await call(`PUT /patterns/${id}/anew`, { number: 1, ...kept })).body).toMatchObject({ number: 2 });
  const offered = (await call(`GET ${place}`)).body as unknown as { offers: { key: string }[] };
  expect(offered.offers).toMatchObject([
    { state: 'changed', says: ['what it is for to “What the Elm crew hears”'] },
  ]);
  const parts = offered.offers.map(({ key }) => key);
  expect((await call(`POST ${place}/changes`, { number: 2, parts })).status).toBe(204);
  expect((await call(`GET /patterns/${id}`)).body).toMatchObject({ number: 2, places: [{ behind: false }] });
  expect((await call(`DELETE ${place}`)).status).toBe(204);
  expect(await countOf(db, 'FROM boards')).toBe(before);
  expect((await call(`DELETE /patterns/${id}`)).status).toBe(204);
}

/** A list of people: handed over, compared, a clash decided, brought in and taken back; another put away. */
export async function lists({ db, people, call }: Caller): Promise<void> {
  const known = people[90] ?? 0;
  const [person] = await rows<{ name: string; mail: string }>(
    db,
    'SELECT name, mail FROM people WHERE id = ?',
    [known],
  );
  const before = await countOf(db, 'FROM people');
  const begun = await call('POST /imports', {
    fileName: 'staff.csv',
    columns: { 'E-mail': 'mail' },
    dateOrder: 'day first',
  });
  const list = begun.body.id;
  expect((await call(`POST /imports/${list}/comparison`)).status).toBe(422);
  await call(`POST /imports/${list}/rows`, {
    rows: [
      { line: 2, name: 'Wren Hollis', mail: 'wren.hollis@list.example' },
      { line: 3, name: person!.name, mail: person!.mail, occupation: 'Keeper of the list' },
      { line: 4, name: '', mail: 'nobody@list.example' },
      // The name of somebody who is here, under an address that is not.
      { line: 5, name: person!.name, mail: 'somebody.else@list.example' },
    ],
  });
  const compared = await call(`POST /imports/${list}/comparison`);
  expect(compared.body).toMatchObject({ state: 'compared', rows: 4 });
  const of = async (kind: string) => (await call(`GET /imports/${list}/rows?kind=${kind}`)).body.items;
  expect(await of('changed')).toMatchObject([{ line: 3, personId: known }]);
  expect(await of('wrong')).toMatchObject([{ line: 4 }]);
  expect(await of('clash')).toMatchObject([{ line: 5, decision: null }]);
  await call(`PUT /imports/${list}/rows/5`, { decision: 'leave out', all: false });
  expect(await of('clash')).toMatchObject([{ line: 5, decision: 'leave out' }]);
  expect((await call(`GET /imports/${list}/missing`)).body.items.length).toBeGreaterThan(0);
  expect((await call(`PUT /imports/${list}`, { marksLeft: false })).body).toMatchObject({ marksLeft: false });
  const ready = (await call(`GET /imports/${list}`)).body as unknown as { digest: string };
  expect((await call(`POST /imports/${list}/application`, { digest: 'something else' })).status).toBe(409);
  expect(await countOf(db, 'FROM people')).toBe(before);
  const applied = await call(`POST /imports/${list}/application`, { digest: ready.digest });
  expect(applied.body).toMatchObject({ state: 'applied' });
  expect(await countOf(db, "FROM people WHERE mail = 'wren.hollis@list.example'")).toBe(1);
  expect(await countOf(db, "FROM people WHERE id = ? AND occupation = 'Keeper of the list'", [known])).toBe(
    1,
  );
  expect((await call(`DELETE /imports/${list}/application`)).body).toMatchObject({ restored: 1 });
  expect(await countOf(db, 'FROM people')).toBe(before);
  expect(await countOf(db, "FROM people WHERE occupation = 'Keeper of the list'")).toBe(0);
  expect((await call(`DELETE /imports/${list}`)).status).toBe(409);
  const other = await call('POST /imports', { fileName: 'x.csv', columns: {}, dateOrder: 'day first' });
  await call(`DELETE /imports/${other.body.id}`);
  expect((await call('GET /imports')).body.items).toMatchObject([{ id: list }]);
}
