import type { Audience } from '../../src/core/audience/expression.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WHOLE } from '../../src/core/sheets/view.ts';
import { insertView } from '../../src/server/sheets/viewStore.ts';
import type { OpenSession } from '../../src/server/accounts/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { Route } from '../../src/server/http/endpoint.ts';
import { TABLE, type Kind, type Row } from './endpointTable.ts';
import { callRoute, demoHouse, everyRoute, signedIn } from './routes.ts';

let db: Database;
let routes: Map<string, Route>;
const who: Record<'coordinator' | 'editor' | 'moderator' | 'member', OpenSession> = {} as never;
const MISSING = 9_999_999;

/** Of each kind a thing that neither this editor nor this moderator nor this member may see or touch. */
const hidden = new Map<Kind, number>();

async function one(sql: string, bindings: unknown[] = []): Promise<number> {
  const [row] = await rows<{ id: number }>(db, sql, bindings);
  if (!row) throw new Error(`The demo has none of what is looked for: ${sql}`);
  return row.id;
}

beforeAll(async () => {
  db = await demoHouse('endpoints');
  routes = await everyRoute();
  who.coordinator = await signedIn(db, 'maud');
  who.editor = await signedIn(db, 'nuria');
  who.moderator = await signedIn(db, 'otieno');
  who.member = await signedIn(db, 'wren');
  // A board none of the three is on, with a post, a reply and a report on it.
  const maud = who.coordinator.actor.id;
  const [group] = await db('groups').insert({ name: 'Nobody else', kind: 'fixed' });
  const [board] = await db('boards').insert({
    name: 'Behind the door',
    about: 'x',
    group_id: group,
    posting: 'members',
    owner_id: maud,
  });
  const version = await one("SELECT MIN(id) AS id FROM announcement_versions WHERE kind = 'sent'");
  const [post] = await db('posts').insert({
    board_id: board,
    version_id: version,
    author_id: maud,
    posted_at: db.raw('NOW(3)'),
  });
  const [reply] = await db('replies').insert({
    post_id: post,
    author_id: maud,
    document: JSON.stringify({ type: 'doc', content: [{ type: 'paragraph' }] }),
    files: '[]',
    idempotency_key: 'hidden-reply',
  });
  const [report] = await db('reports').insert({
    subject: 'post',
    subject_id: post,
    board_id: board,
    reporter_id: maud,
    reason: 'x',
  });
  const notAsked = `AND o.id NOT IN (SELECT occurrence_id FROM roll WHERE person_id IN (?, ?, ?)) AND s.created_by = ?`;
  const three = [who.editor, who.moderator, who.member].map((session) => session.actor.id);
  const askOf = (kind: string): Promise<number> =>
    one(
      `SELECT MAX(a.occurrence_id) AS id FROM asks a JOIN occurrences o ON o.id = a.occurrence_id JOIN sends s ON s.id = o.send_id
       WHERE a.kind = ? ${notAsked} HAVING id IS NOT NULL`,
      [kind, ...three, maud],
    );
  const send = await one(
    "SELECT MAX(o.id) AS id FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE s.created_by = ? AND o.state = 'scheduled'",
    [maud],
  );
  const [draft] = await db('announcements').insert({
    author_id: maud,
    saved_by: maud,
    content: JSON.stringify({ ...(await import('./endpointTable.ts')).content }),
    plan: JSON.stringify({ ...(await import('./endpointTable.ts')).plan }),
  });
  await db('announcements').where({ id: draft }).update({ review: 'for review', review_by: maud });
  const [comment] = await db('comments').insert({
    announcement_id: draft,
    author_id: maud,
    text: 'x',
    mentions: '[]',
  });
  const [kept] = await db('announcement_versions').insert({
    announcement_id: draft,
    author_id: maud,
    kind: 'saved',
    title: 'x',
    byline: '',
    importance: 'routine',
    body: JSON.stringify({ sections: [], button: null, event: null }),
    excerpt: '',
  });
  const acknowledgement = await askOf('acknowledgement').catch(async () => {
    const id = await one("SELECT MIN(a.occurrence_id) AS id FROM asks a WHERE a.kind = 'acknowledgement'");
    await db('roll').where({ occurrence_id: id }).whereIn('person_id', three).delete();
    await db.raw(
      'UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.created_by = ? WHERE o.id = ?',
      [maud, id],
    );
    return id;
  });
  const checkIn = await askOf('check-in').catch(async () => {
    const id = await one("SELECT MIN(a.occurrence_id) AS id FROM asks a WHERE a.kind = 'check-in'");
    await db('roll').where({ occurrence_id: id }).whereIn('person_id', three).delete();
    await db.raw(
      'UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.created_by = ? WHERE o.id = ?',
      [maud, id],
    );
    return id;
  });
  const [audience] = await db('saved_audiences').insert({
    name: 'Hidden',
    expression: JSON.stringify({ kind: 'everyone' }),
    saved_by: maud,
  });
  const [device] = await db('devices').insert({
    person_id: maud,
    label: 'x',
    endpoint: 'https://push.example/1',
    endpoint_hash: Buffer.alloc(32, 1),
    p256dh: 'x',
    auth: 'x',
  });
  const [absence] = await db('absences').insert({
    person_id: maud,
    from_on: '2030-01-01',
    to_on: '2030-01-02',
  });
  const [sender] = await db('senders').insert({ name: 'Unseen sender' });
  const [series] = await db('series').insert({ name: 'Unseen series', categories: '[]' });
  const [answer] = await db('shelf_answers').insert({
    subject_id: await one('SELECT MIN(id) AS id FROM shelf_subjects'),
    question: 'Unpublished?',
    document: JSON.stringify({ type: 'doc', content: [{ type: 'paragraph' }] }),
    written_by: maud,
  });
  const [question] = await db('shelf_questions').insert({
    person_id: maud,
    text: 'x',
    found: 0,
    state: 'open',
    idempotency_key: 'hidden-question',
  });
  const pattern = await one('SELECT MIN(id) AS id FROM patterns');
  const [place] = await db('pattern_places').insert({
    pattern_id: pattern,
    number: 1,
    name: 'A place',
    answers: '{}',
    made_by: maud,
    made_at: db.fn.now(3),
  });
  await db('sessions').insert({
    token_hash: Buffer.alloc(32, 9),
    person_id: maud,
    expires_at: '2099-01-01',
  });
  await db('passkeys').insert({
    person_id: maud,
    credential: 'of-somebody-else',
    public_key: Buffer.from('x'),
    counter: 0,
    name: 'Key',
  });
  const passkey = await one('SELECT MAX(id) AS id FROM passkeys');
  const [system] = await db('scim_clients').insert({
    name: 'Hidden',
    token_hash: Buffer.alloc(32),
    made_by: maud,
  });
  const [provider] = await db('providers').insert({
    name: 'Hidden',
    provider: JSON.stringify({
      name: 'Hidden',
      issuer: 'https://login.test.example',
      clientId: 'x',
      byMail: true,
      byIdentity: null,
    }),
  });
  const [token] = await db('api_tokens').insert({
    person_id: maud,
    name: 'Hidden',
    token_hash: Buffer.alloc(32, 3),
    scopes: 'people:read',
    expires_at: '2099-01-01',
  });
  const nobodyElse: Audience = { kind: 'group', id: group ?? 0 };
  const [calendarSession] = await db('calendar_sessions').insert({
    title: 'Behind the door',
    text: '',
    wall: '2030-01-01T10:00',
    zone: 'UTC',
    minutes: 60,
    place: 'x',
    link: '',
    audience: JSON.stringify(nobodyElse),
    laid_to: '2030-01-01',
  });
  const [date] = await db('session_dates').insert({
    session_id: calendarSession,
    meant: '2030-01-01T10:00',
    starts_at: '2030-01-01 10:00:00',
    minutes: 60,
    place: 'x',
    link: '',
  });
  const [followed] = await db('followed_calendars').insert({
    name: 'Elsewhere',
    every_minutes: 60,
    audience: '{"kind":"everyone"}',
    warnings: '[]',
    try_at: '2099-01-01',
  });
  const elsewhere = await one('SELECT MAX(id) AS id FROM sessions');
  const [list] = await db('imports').insert({
    file_name: 'x.csv',
    columns: '{}',
    date_order: 'day first',
    made_by: maud,
  });
  await db('set_aside').insert({
    kind: 'closing',
    subject_id: acknowledgement,
    occurrence_id: acknowledgement,
    reason: 'x',
    try_at: db.raw('NOW(3) + INTERVAL 1 HOUR'),
  });
  for (const [kind, id] of Object.entries({
    board,
    post,
    reply,
    draft,
    send,
    ask: acknowledgement,
    'check-in': checkIn,
    person: 2,
    contact: await one('SELECT MAX(id) AS id FROM people WHERE linked_to IS NOT NULL'),
    group,
    sender,
    series,
    answer,
    question,
    ribbon: 1,
    report,
    device,
    absence,
    holiday: 1,
    audience,
    comment,
    version: kept,
    aside: acknowledgement,
    inbox: send,
    station: 1,
    import: list,
    session: elsewhere,
    'calendar session': calendarSession,
    'followed calendar': followed,
    date,
    passkey,
    provider,
    system,
    automation: await one('SELECT MAX(id) AS id FROM automations'),
    run: await one('SELECT MAX(id) AS id FROM automation_runs'),
    sheet: await one('SELECT MAX(id) AS id FROM sheets'),
    pattern,
    place,
    record: await one('SELECT MAX(id) AS id FROM records'),
    view: await insertView(db, await one('SELECT MAX(id) AS id FROM sheets'), 1, {
      name: 'Mine',
      shared: false,
      view: WHOLE,
    }),
    source: await one('SELECT MAX(id) AS id FROM sources'),
    identity: await one('SELECT MAX(id) AS id FROM identities'),
    address: await one('SELECT MAX(id) AS id FROM person_addresses'),
    token,
    'way in': await one('SELECT MAX(id) AS id FROM hooks_in'),
    'way out': await one('SELECT MAX(id) AS id FROM hooks_out'),
  }))
    hidden.set(kind as Kind, id ?? 0);
});
afterAll(() => db.destroy());

const paramsOf = (row: Row, id: (kind: Kind) => number): Record<string, string> => ({
  kind: 'closing',
  key: 'x'.repeat(22),
  line: '1',
  name: 'whole.webp',
  token: 'x',
  ...Object.fromEntries(Object.entries(row.ids ?? {}).map(([name, kind]) => [name, String(id(kind))])),
});

/** What is answered without the numbers in it, so that what is hidden and what is missing can be compared. */
const told = ({ status, text }: { status: number; text: string }): string =>
  `${status} ${text.replace(/\d+/g, '#')}`;

it('every endpoint has its row in the table, and every row its endpoint', () => {
  expect([...routes.keys()].sort()).toEqual(Object.keys(TABLE).sort());
});

describe('whoever asks', () => {
  for (const [name, row] of Object.entries(TABLE)) {
    const ask = (session: OpenSession | undefined, id: (kind: Kind) => number) =>
      callRoute(name, routes.get(name)!, {
        session,
        params: paramsOf(row, id),
        ...(row.query === undefined ? {} : { query: row.query }),
        ...(row.body === undefined ? {} : { body: row.body }),
      });
    it(name, async () => {
      const missing = (): number => MISSING;
      const theirs = (kind: Kind): number => hidden.get(kind) ?? MISSING;
      if (row.who !== 'anybody') expect((await ask(undefined, theirs)).status, 'signed out').toBe(401);
      for (const role of ['member', 'moderator', 'editor'] as const) {
        const refusedRole = row.who === 'coordinators' || (row.who === 'desk' && role !== 'editor');
        const answer = await ask(who[role], theirs);
        expect(answer.status, `${role}: ${answer.text}`).toBeLessThan(500);
        if (refusedRole)
          expect([403, 404], `${role} is refused: ${answer.status} ${answer.text.slice(0, 200)}`).toContain(
            answer.status,
          );
        // What is there and hidden is answered as what is not there at all: by status, and to the letter.
        if (
          row.ids &&
          !['person', 'series', 'ribbon', 'group', 'holiday', 'sheet'].includes(row.ids.id ?? '')
        ) {
          expect(answer.status, `${role}: ${answer.text.slice(0, 200)}`).toBeGreaterThanOrEqual(400);
          expect(told(answer), `${role}: hidden as missing`).toBe(told(await ask(who[role], missing)));
        }
      }
      // A coordinator asking for what is not there is told so, and nothing breaks.
      const gone = await ask(who.coordinator, missing);
      expect(gone.status, gone.text).toBeLessThan(500);
      if (row.ids && name.startsWith('GET')) expect(gone.status, gone.text).toBe(404);
    });
  }
});

it('nothing of all that was done', async () => {
  const [post] = await rows<{ state: string }>(db, 'SELECT state FROM posts WHERE id = ?', [
    hidden.get('post'),
  ]);
  expect(post!.state).toBe('up');
  const [draft] = await rows<{ revision: number; review: string }>(
    db,
    'SELECT revision, review FROM announcements WHERE id = ?',
    [hidden.get('draft')],
  );
  expect(draft).toEqual({ revision: 1, review: 'for review' });
  const [send] = await rows<{ state: string }>(db, 'SELECT state FROM occurrences WHERE id = ?', [
    hidden.get('send'),
  ]);
  expect(send!.state).toBe('scheduled');
});
