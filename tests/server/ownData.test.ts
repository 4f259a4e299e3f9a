import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import { DEMO_PASSWORD } from '../../src/demo/load.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { ownArchive } from '../../src/server/own-data/archive.ts';
import { OWN } from '../../src/server/own-data/store.ts';
import { APART, MOVED } from '../../src/server/people/mergingStore.ts';
import { keepFile } from '../../src/server/uploads/service.ts';
import { countOf, copiedDemo } from './world.ts';
import { filesIn } from './zipFiles.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await copiedDemo('own_data'));
}, 120_000);
afterAll(() => db.destroy());

const actor = (id: number, role: Actor['role'] = 'member'): Actor => ({
  id,
  role,
  moderates: new Set(),
  mayReach: new Set(),
});
const idOf = async (name: string): Promise<number> =>
  (await rows<{ id: number }>(db, 'SELECT id FROM people WHERE name = ?', [name]))[0]?.id ?? 0;

async function takenOut(by: Actor, id: number): Promise<Map<string, Buffer>> {
  const { body } = await ownArchive(db, by, id);
  return filesIn(Buffer.from(await new Response(body).arrayBuffer()));
}
const listIn = (files: Map<string, Buffer>, name: string): Record<string, unknown>[] =>
  JSON.parse(files.get(`${name}.json`)?.toString('utf8') ?? 'null') as Record<string, unknown>[];

describe('all that is kept of somebody', () => {
  it('is a file of each kind, whole, with what they uploaded', async () => {
    const wren = await idOf('Wren Ashdown');
    const kept = await keepFile(db, actor(wren), Buffer.from('one\ntwo'), 'list.txt');
    const files = await takenOut(actor(wren), wren);
    expect([...files.keys()].filter((name) => name.endsWith('.json')).sort()).toEqual(
      Object.keys(OWN)
        .map((name) => `${name}.json`)
        .sort(),
    );
    expect(listIn(files, 'person')).toMatchObject([{ name: 'Wren Ashdown', role: 'member' }]);
    expect(files.get(`files/${kept.key}/list.txt`)?.toString()).toBe('one\ntwo');
    const counts: [string, string][] = [
      ['received', "FROM deliveries WHERE person_id = ? AND method = 'inbox'"],
      ['posts', 'FROM posts WHERE author_id = ?'],
      ['replies', 'FROM replies WHERE author_id = ?'],
      ['answers', 'FROM roll WHERE person_id = ?'],
      ['reactions', 'FROM reactions WHERE person_id = ?'],
      ['notices', 'FROM notices WHERE person_id = ?'],
      ['calendar', 'FROM session_answers WHERE person_id = ?'],
    ];
    for (const [name, sql] of counts)
      expect([name, listIn(files, name).length]).toEqual([name, await countOf(db, sql, [wren])]);
    expect(listIn(files, 'received').length).toBeGreaterThan(10);
    for (const reply of listIn(files, 'replies')) expect(reply.text).toEqual(expect.any(String));
  });

  it('goes past one page of rows', async () => {
    const wren = await idOf('Wren Ashdown');
    const values = Array.from({ length: 1_203 }, (_, n) => ({
      person_id: wren,
      kind: 'mention',
      title: `Notice ${n}`,
      text: 'x',
      path: '/x',
      why: 'x',
      about: `many:${n}`,
      in_inbox: true,
      mail_state: 'no',
      push_state: 'no',
    }));
    await db.batchInsert('notices', values, 400);
    const titles = listIn(await takenOut(actor(wren), wren), 'notices').map(({ title }) => title);
    expect(new Set(titles).size).toBe(titles.length);
    expect(titles.filter((title) => String(title).startsWith('Notice '))).toHaveLength(1_203);
  });

  it('is given up in the middle without harm', async () => {
    const wren = await idOf('Wren Ashdown');
    const { body } = await ownArchive(db, actor(wren), wren);
    const reader = body.getReader();
    expect((await reader.read()).done).toBe(false);
    await reader.cancel();
    expect(listIn(await takenOut(actor(wren), wren), 'person')).toHaveLength(1);
  });

  it('holds nothing that proves who they are, and nothing of anybody else’s', async () => {
    const [wren, other] = [await idOf('Wren Ashdown'), await idOf('Otieno Barasi')];
    const files = await takenOut(actor(wren), wren);
    const all = [...files.values()].map(String).join('\n');
    expect(all).not.toMatch(/\$argon2|token_hash|endpoint|p256dh|idempotency/);
    expect(all).not.toContain(DEMO_PASSWORD);
    await expect(ownArchive(db, actor(wren), other)).rejects.toMatchObject({ status: 403 });
    await expect(ownArchive(db, actor(wren, 'coordinator'), 999_999)).rejects.toMatchObject({ status: 404 });
    const theirs = await takenOut(actor(wren, 'coordinator'), other);
    expect(listIn(theirs, 'person')).toMatchObject([{ name: 'Otieno Barasi' }]);
    expect(listIn(theirs, 'done with them').at(-1)).toMatchObject({ action: 'take out data' });
  });

  /** Where people are named and it is not of them but of what they look after, or stands in another file. */
  const NOT_OF_THEM = [
    'access_letters.made_by',
    'announcements.review_by',
    'announcements.saved_by',
    'announcement_versions.author_id',
    'archived_files.archived_by',
    'ask_options.added_by',
    'asks.closed_by',
    'automation_versions.published_by',
    'automations.owner_id',
    'automations.saved_by',
    'board_marks.person_id',
    'boards.owner_id',
    'calendar_sessions.made_by',
    'followed_calendars.made_by',
    'pattern_places.made_by',
    'pattern_versions.made_by',
    'check_ins.unblocked_by',
    'comments.settled_by',
    'draft_openings.person_id',
    'draft_readers.person_id',
    'draft_readers.shared_by',
    'findables.author_id',
    'group_comings.person_id',
    'hooks_in.owner_id',
    'hooks_out.owner_id',
    'import_effects.person_id',
    'import_rows.person_id',
    'imports.made_by',
    'people.merged_into',
    'postings.author_id',
    'posts.decided_by',
    'posts.pinned_by',
    'record_changes.changed_by',
    'records.changed_by',
    'replies.decided_by',
    'reports.settled_by',
    'retention.changed_by',
    'saved_audiences.saved_by',
    'scim_clients.made_by',
    'scim_users.person_id',
    'sends.created_by',
    'automation_people.person_id',
    'sheet_people.person_id',
    'sheet_sources.made_by',
    'sheet_views.made_by',
    'sheets.made_by',
    'takeouts.made_by',
    'shelf_answers.written_by',
    'shelf_questions.settled_by',
    'sources.made_by',
  ];
  it('has every table that names people in it, or says why not', () => {
    const all = Object.values(OWN).join('\n');
    const missing = [...MOVED.map(([table, column]) => `${table}.${column}`), ...APART].filter((named) => {
      const [table = '', column = ''] = named.split('.');
      return !NOT_OF_THEM.includes(named) && !(all.includes(table) && all.includes(column));
    });
    expect(missing).toEqual([]);
  });
});
