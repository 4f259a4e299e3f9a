import { audienceOf } from '../core/audience/choices.ts';
import type { Audience } from '../core/audience/expression.ts';
import type { Content } from '../core/content/announcement.ts';
import { mayUnsubscribe, type Plan } from '../core/plan/plan.ts';
import { dayAround } from '../core/timing/day.ts';
import { settle, wallAt } from '../core/timing/wallTime.ts';
import { hashPassword } from '../server/accounts/password.ts';
import { freezeVersion, insertAnnouncement } from '../server/announcements/store.ts';
import { isIn } from '../server/audience/store.ts';
import { insertBoard, insertMemberPost } from '../server/boards/store.ts';
import { change, databaseNow, type Database } from '../server/database/connection.ts';
import { circumstances } from '../server/groups/directory.ts';
import { insertOrganisation } from '../server/people/store.ts';
import { insertSend } from '../server/sends/store.ts';
import { layPeople, type DemoPeople } from './people.ts';
import { doc, ITEMS, MEMBER_POSTS, seedTray, type Item } from './texts.ts';

/** The password of the demo people, for trying the sign-in form. */
export const DEMO_PASSWORD = 'nine small stations';
const ZONE = 'Europe/London';
const HOUR_MS = 3_600_000;
const LATEST_ISSUE = 214;
const ISSUES = 30;

/** Loads the Thistledown Seed Network into an empty database, laid out around this moment. */
export async function loadDemo(db: Database): Promise<void> {
  const hash = await hashPassword(DEMO_PASSWORD);
  await db.transaction(async (trx) => {
    const nowMs = await databaseNow(trx);
    await insertOrganisation(trx, { name: 'Thistledown Seed Network', zone: ZONE, demo: true });
    const people = await layPeople(trx, nowMs);
    await trx('passwords').insert(people.all.slice(0, 10).map(({ id }) => ({ person_id: id, hash })));
    const groups = await layGroups(trx, people);
    const boards = await layBoards(trx, people, groups);
    await laySends(trx, nowMs, people, groups, boards);
    await layMemberPosts(trx, nowMs, people, boards);
    await layDrafts(trx, people, groups, boards);
    await trx.raw(
      `UPDATE posts SET pinned_at = posted_at, pinned_by = author_id WHERE version_id IN (
         SELECT id FROM announcement_versions WHERE title IN
           ('House rules, read this first', 'How seed loans work', 'Fire drill in the drying rooms this Thursday', 'New humidity limits in every vault'))`,
    );
  });
}

type Ids = Map<string, number>;

async function layGroups(db: Database, people: DemoPeople): Promise<Ids> {
  const ids: Ids = new Map();
  const add = async (name: string, rule: Audience | null, members: number[] = []): Promise<void> => {
    const [id = 0] = await db('groups').insert({
      name,
      kind: rule ? 'live' : 'fixed',
      rule: rule && JSON.stringify(rule),
    });
    ids.set(name, id);
    if (members.length > 0)
      await db('group_members').insert(members.map((person_id) => ({ group_id: id, person_id })));
  };
  for (const [name, id] of people.stations) await add(name, { kind: 'station', id });
  const every = (n: number, from: number): number[] =>
    people.all.filter((_, i) => i % n === from).map((person) => person.id);
  await add('Vault keyholders', null, [
    ...new Set([...every(6, 2), ...people.all.slice(0, 8).map((p) => p.id)]),
  ]);
  await add('First aiders', null, every(11, 4));
  await add('Catalogue working party', null, [...new Set([...every(19, 6), people.byMail('wren')])]);
  await add('Trustees', null, people.idsBy('trustee'));
  await add('Field collectors on the road', {
    kind: 'all',
    of: [
      { kind: 'occupation', occupation: 'field collector' },
      { kind: 'standing', standing: 'active' },
    ],
  });
  await add('New this season', { kind: 'joined within', days: 60 });
  await add('On leave', { kind: 'standing', standing: 'on leave' });
  const reach: [string, string[]][] = [
    ['nuria', ['Sant Elm', 'Quillan Head', 'Field collectors on the road']],
    ['aroha', ['Tarn Hollow', 'Mallee Reach']],
  ];
  for (const [mail, names] of reach)
    await db('editor_reach').insert(
      names.map((name) => ({ person_id: people.byMail(mail), group_id: ids.get(name) })),
    );
  return ids;
}

async function layBoards(db: Database, people: DemoPeople, groups: Ids): Promise<Ids> {
  const ids: Ids = new Map();
  const add = async (
    name: string,
    about: string,
    group: string | null,
    posting: 'moderators' | 'members',
    moderators: string[],
  ): Promise<void> => {
    const groupId = group === null ? null : (groups.get(group) ?? null);
    const id = await insertBoard(db, { name, about, groupId, posting, position: ids.size });
    ids.set(name, id);
    await db('board_moderators').insert(
      moderators.map((mail) => ({ board_id: id, person_id: people.byMail(mail) })),
    );
  };
  await add(
    'All stations',
    'News that concerns all nine stations, from the network office.',
    null,
    'moderators',
    ['maud', 'jago'],
  );
  await add(
    'House rules',
    'What holds everywhere. Read it once, come back when in doubt.',
    null,
    'moderators',
    ['maud'],
  );
  await add(
    'Vault alerts',
    'Readings, alarms and keys. For those who hold a key.',
    'Vault keyholders',
    'moderators',
    ['jago', 'otieno'],
  );
  await add(
    'Field season',
    'Roads, permits, weather and finds, for those on the road.',
    'Field collectors on the road',
    'members',
    ['nuria', 'sarita'],
  );
  await add('Thanks', 'Say thank you in public. One sentence is enough.', null, 'members', [
    'otieno',
    'kailani',
  ]);
  await add(
    'Catalogue working party',
    'Labels, names and question marks.',
    'Catalogue working party',
    'members',
    ['jago'],
  );
  for (const place of people.stations.keys()) {
    const local = people.all.find((person) => person.id <= 10 && person.place === place);
    const mails = ['maud', 'jago', 'nuria', 'aroha', 'otieno', 'kailani', 'wren', 'sarita', 'keola', 'marli'];
    await add(place, `Everything around the station at ${place}.`, place, 'members', [
      mails[(local?.id ?? 1) - 1] ?? 'maud',
    ]);
  }
  return ids;
}

function contentOf(item: Item): Content {
  return {
    title: item.title,
    byline: item.byline ?? '',
    importance: item.importance ?? 'routine',
    document: item.document,
    button: item.button ?? null,
  };
}

async function laySends(
  db: Database,
  nowMs: number,
  people: DemoPeople,
  groups: Ids,
  boards: Ids,
): Promise<void> {
  const weekday = new Date(`${dayAround(nowMs, ZONE).date}T12:00:00Z`).getUTCDay();
  const lastMonday = -((weekday + 6) % 7);
  const issues = Array.from({ length: ISSUES }, (_, i) => seedTray(LATEST_ISSUE - i, i, lastMonday));
  const next = [1, 2].map((i) => seedTray(LATEST_ISSUE + i, -i, lastMonday));
  const groupId = (name: string): number => groups.get(name) ?? 0;
  const circumstance = await circumstances(db);

  for (const item of [...ITEMS, ...issues, ...next]) {
    const date = dayAround(nowMs, ZONE, item.day).date;
    const moment = { wall: `${date}T${item.at}`, zone: ZONE };
    const dueMs = settle(moment).epochMs;
    const deadlineMs = item.acknowledge ? dueMs + item.acknowledge * HOUR_MS : null;
    const audience = item.whom
      ? audienceOf({
          everyone: item.whom.to === 'everyone',
          include: item.whom.to === 'everyone' ? [] : item.whom.to.map(groupId),
          exclude: (item.whom.except ?? []).map(groupId),
        })
      : null;
    const plan: Plan = {
      audience,
      mail: item.mail ?? true,
      boards: item.boards.map((name) => boards.get(name) ?? 0),
      timing: { kind: 'at', ...moment },
      ask:
        item.acknowledge === undefined
          ? { kind: 'nothing' }
          : {
              kind: 'acknowledgement',
              deadline: deadlineMs === null ? null : { wall: wallAt(deadlineMs, ZONE), zone: ZONE },
            },
    };
    const author = people.byMail(item.by);
    const content = contentOf(item);
    const announcementId = await insertAnnouncement(db, author, content, plan, 'committed');
    const versionId = await freezeVersion(db, announcementId, author, content, 'sent');
    const occurrenceId = await insertSend(db, {
      announcementId,
      versionId,
      createdBy: author,
      plan,
      key: `demo-${announcementId}`,
      dueMs,
      deadlineMs,
    });
    const made = new Date(Math.min(nowMs, dueMs) - 20 * HOUR_MS);
    await change(db, 'UPDATE announcements SET created_at = ?, saved_at = ? WHERE id = ?', [
      made,
      made,
      announcementId,
    ]);
    if (item.recalled) {
      await change(db, "UPDATE buckets SET state = 'recalled' WHERE occurrence_id = ?", [occurrenceId]);
      await change(db, "UPDATE occurrences SET state = 'recalled' WHERE id = ?", [occurrenceId]);
      await change(db, "UPDATE announcements SET state = 'draft' WHERE id = ?", [announcementId]);
    } else if (dueMs <= nowMs) {
      const who = audience && isIn(audience, circumstance);
      await layPast(db, { occurrenceId, versionId, author, plan, item, dueMs, nowMs, who });
    }
  }
}

interface Past {
  occurrenceId: number;
  versionId: number;
  author: number;
  plan: Plan;
  item: Item;
  dueMs: number;
  nowMs: number;
  who: ReturnType<typeof isIn> | null;
}

/** What became of a send that has gone: a number in [0, 1) for each person that is the same at every start. */
async function layPast(db: Database, past: Past): Promise<void> {
  const { occurrenceId, plan, item, dueMs, nowMs, who } = past;
  const due = new Date(dueMs);
  const chance = (salt: string): string =>
    `(CRC32(CONCAT('${salt}', ${occurrenceId}, '-', p.id)) / 4294967296)`;
  const later = (factor: string): string => `? + INTERVAL ROUND(${factor}) MICROSECOND`;
  await change(db, "UPDATE buckets SET state = 'expanded', attempts = 1 WHERE occurrence_id = ?", [
    occurrenceId,
  ]);
  await change(db, "UPDATE occurrences SET state = 'sent', sent_at = ? + INTERVAL 3 SECOND WHERE id = ?", [
    due,
    occurrenceId,
  ]);
  for (const board of plan.boards)
    await db('posts').insert({
      board_id: board,
      version_id: past.versionId,
      occurrence_id: occurrenceId,
      author_id: past.author,
      posted_at: new Date(dueMs + 40),
    });
  if (!who) return;
  await change(
    db,
    `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at)
     SELECT ?, p.id, 'inbox', 'delivered', ?, ${later(`(30 + 60 * ${chance('i')}) * 1000`)} FROM people p
     WHERE p.joined_on <= ? AND ${who.sql}`,
    [occurrenceId, due, due, due, ...who.bindings],
  );
  if (plan.mail) {
    const stoppable = mayUnsubscribe(item.importance ?? 'routine', plan.ask);
    // The address that no longer exists stopped working nine days ago.
    const recent = nowMs - dueMs < 9 * 24 * HOUR_MS;
    const refused = `(p.mail LIKE 'refused.%' AND ${recent ? 'TRUE' : 'FALSE'})`;
    await change(
      db,
      `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at, attempts, reason)
       SELECT ?, p.id, 'mail', IF(${refused}, 'failed', 'delivered'), ?,
         IF(${refused}, NULL, ${later(`(150 + 2400 * ${chance('m')}) * 1000`)}), 1,
         IF(${refused}, 'The mail server said: 550 No such mailbox here', NULL)
       FROM deliveries d JOIN people p ON p.id = d.person_id
       WHERE d.occurrence_id = ? AND d.method = 'inbox' AND p.mail IS NOT NULL
         ${stoppable ? 'AND p.mail_stopped_at IS NULL' : ''}`,
      [occurrenceId, due, due, occurrenceId],
    );
  }
  if (plan.ask.kind === 'nothing') return;
  const spanS = Math.max(60, Math.min(nowMs - dueMs, 40 * HOUR_MS) / 1000);
  const answers = `${chance('a')} < ${item.answered ?? 0.5}`;
  await change(
    db,
    `INSERT INTO roll (occurrence_id, person_id, answered_at, via)
     SELECT ?, p.id, IF(${answers}, ${later(`${spanS} * 1000000 * POW(${chance('t')}, 3)`)}, NULL),
       IF(${answers}, IF(${chance('v')} < 0.4 AND p.mail IS NOT NULL, 'mail', 'page'), NULL)
     FROM deliveries d JOIN people p ON p.id = d.person_id WHERE d.occurrence_id = ? AND d.method = 'inbox'`,
    [occurrenceId, due, occurrenceId],
  );
}

async function layMemberPosts(db: Database, nowMs: number, people: DemoPeople, boards: Ids): Promise<void> {
  for (const [daysAgo, board, mail, title, text] of MEMBER_POSTS) {
    const author = people.byMail(mail);
    const content: Content = { title, byline: '', importance: 'routine', document: doc(text), button: null };
    const plan: Plan = {
      audience: null,
      mail: false,
      boards: [],
      timing: { kind: 'now' },
      ask: { kind: 'nothing' },
    };
    const announcementId = await insertAnnouncement(db, author, content, plan, 'committed');
    const versionId = await freezeVersion(db, announcementId, author, content, 'sent');
    const id = await insertMemberPost(db, {
      boardId: boards.get(board) ?? 0,
      versionId,
      authorId: author,
      key: `demo-${announcementId}`,
    });
    const at = new Date(nowMs - daysAgo * 24 * HOUR_MS + ((announcementId * 37) % 240) * 60_000);
    await change(db, 'UPDATE posts SET posted_at = ? WHERE id = ?', [at, id]);
  }
}

async function layDrafts(db: Database, people: DemoPeople, groups: Ids, boards: Ids): Promise<void> {
  const draft = async (
    by: string,
    title: string,
    text: string[],
    to: string[],
    board: string | null,
  ): Promise<void> => {
    await insertAnnouncement(
      db,
      people.byMail(by),
      { title, byline: '', importance: 'routine', document: doc(...text), button: null },
      {
        audience: audienceOf({
          everyone: false,
          include: to.map((name) => groups.get(name) ?? 0),
          exclude: [],
        }),
        mail: true,
        boards: board === null ? [] : [boards.get(board) ?? 0],
        timing: { kind: 'now' },
        ask: { kind: 'nothing' },
      },
      'draft',
    );
  };
  await draft(
    'maud',
    'Rota for the winter readings',
    ['Three people a week and station, from the first Monday.', 'Swaps go to the vault office.'],
    ['Vault keyholders'],
    'Vault alerts',
  );
  await draft(
    'jago',
    'A tenth station: what we know so far',
    ['Nothing is decided. This is what the trustees are looking at.'],
    ['Trustees'],
    null,
  );
  await draft('nuria', 'Transect in spring', ['Who is in?'], ['Sant Elm'], 'Sant Elm');
}
