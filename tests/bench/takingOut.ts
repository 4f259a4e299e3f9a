import { execFile } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { build } from 'esbuild';
import { z } from 'zod';
import { placeFolder } from '../../scripts/house/bringUp.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { bringInParts, lookIntoParts } from '../../src/server/organisation/parts/service.ts';
import { beginTakeout, takeoutFile } from '../../src/server/organisation/takeouts.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { coordinator, one } from './data.ts';
import { seconds, sized, timed } from './size.ts';

const POSTS = sized(100_000);
const MB = 1_000_000;

/** Lays out so many posts on one board, each with a text of its own. */
async function layPosts(db: Database): Promise<void> {
  const board = await insertBoard(db, {
    name: 'Bees',
    about: '',
    groupId: null,
    ...PRESETS.talk.switches,
    ownerId: coordinator.id,
    takesThanks: false,
    position: 1,
  });
  const document = {
    type: 'doc' as const,
    content: [
      { type: 'paragraph' as const, content: [{ type: 'text' as const, text: 'It hums. '.repeat(40) }] },
    ],
  };
  const { id } = await writePost(
    db,
    coordinator,
    board,
    { title: 'Hive', document, image: null, gallery: [], files: [] },
    'taking-out-bench',
  );
  const { version, announcement } = await one<{ version: number; announcement: number }>(
    db,
    `SELECT o.version_id AS version, v.announcement_id AS announcement FROM posts o
       JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ?`,
    [id],
  );
  await db.raw(
    `INSERT INTO announcements (id, author_id, state, content, plan, saved_by)
     SELECT ? + s.seq, author_id, state, content, plan, saved_by FROM announcements, seq_1_to_${POSTS} s WHERE id = ?`,
    [announcement, announcement],
  );
  await db.raw(
    `INSERT INTO announcement_versions (id, announcement_id, kind, author_id, title, byline, importance, excerpt, body, category)
     SELECT ? + s.seq, ? + s.seq, kind, author_id, CONCAT(title, ' ', s.seq), byline, importance, excerpt, body, category
     FROM announcement_versions, seq_1_to_${POSTS} s WHERE id = ?`,
    [version, announcement, version],
  );
  await db.raw(
    `INSERT INTO posts (board_id, version_id, author_id, posted_at, state)
     SELECT board_id, version_id + s.seq, author_id, posted_at, 'up' FROM posts, seq_1_to_${POSTS} s WHERE id = ?`,
    [id],
  );
}

/** The same archive made behind the page, and what it has in parts looked at beside what is here: all as it is. */
async function parts(db: Database): Promise<void> {
  const group = (await db('groups').insert({ name: 'All of them', kind: 'fixed' }))[0] ?? 0;
  await db.raw('INSERT INTO group_members (group_id, person_id) SELECT ?, id FROM people', [group]);
  const [id, made] = await timed(async () => {
    const { takeout, through } = await beginTakeout(db, coordinator, 'https://bell.example', (error) => {
      throw error;
    });
    await through;
    return takeout.id;
  });
  const folder = await mkdtemp(join(tmpdir(), 'taking-out-'));
  try {
    const path = join(folder, 'whole.zip');
    const { body } = await takeoutFile(db, coordinator, id);
    await pipeline(Readable.fromWeb(body as never), createWriteStream(path));
    const [look, took] = await timed(() => lookIntoParts(db, coordinator, path));
    if (look.parts.some(({ state }) => state !== 'same')) throw new Error('Something is other than it is');
    await db.raw('DELETE FROM group_members WHERE group_id = ?', [group]);
    const changed = (await lookIntoParts(db, coordinator, path)).parts.filter(
      ({ state }) => state === 'changed',
    );
    const [, brought] = await timed(() =>
      bringInParts(db, coordinator, path, {
        parts: changed.map(({ key }) => ({ key, state: 'changed', beside: false })),
      }),
    );
    const { n } = await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM group_members WHERE group_id = ?', [
      group,
    ]);
    console.log(`  a group brought in again with its ${n} people, in one transaction: ${seconds(brought)}`);
    console.log(
      `  made behind the page and kept in the database: ${seconds(made)}; its ${look.parts.length} parts, a group of everybody among them, looked at beside what is here: ${seconds(took)}`,
    );
  } finally {
    await rm(folder, { recursive: true });
  }
}

const oneArchiveSchema = z.object({
  before: z.number(),
  peak: z.number(),
  bytes: z.number(),
  tookMs: z.number(),
});

/** Takes it out in a process of its own, built as the processes are: what translates TypeScript would count as its memory. */
async function oneArchive(url: string): Promise<z.infer<typeof oneArchiveSchema>> {
  const built = `${placeFolder('bench')}/oneArchive.mjs`;
  await build({
    entryPoints: [fileURLToPath(new URL('oneArchive.ts', import.meta.url))],
    outfile: built,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    logLevel: 'error',
  });
  const { stdout } = await promisify(execFile)(process.execPath, [built, url, String(coordinator.id)]);
  return oneArchiveSchema.parse(JSON.parse(stdout.trim().split('\n').at(-1) ?? ''));
}

/** The whole organisation taken out: how long, how large, and how much memory it takes while it is read. */
export async function takingOut(db: Database, url: string): Promise<void> {
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id = ?", [coordinator.id]);
  await layPosts(db);
  const { before, peak, bytes, tookMs } = await oneArchive(url);
  const { people } = await one<{ people: number }>(db, 'SELECT COUNT(*) AS people FROM people');
  console.log(
    `an archive of ${people} people and ${POSTS} posts: ${seconds(tookMs)}, ${(bytes / MB).toFixed(1)} MB; a process from the build held ${Math.round(before / MB)} MB before and at most ${Math.round(peak / MB)} MB meanwhile; aim 300 MB`,
  );
  const [, bare] = await timed(async () => {
    for (const table of ['people', 'announcements', 'announcement_versions', 'posts'])
      await db.raw(`SELECT COUNT(*), SUM(LENGTH(JSON_ARRAY(t.id))) FROM ${table} t`);
  });
  await parts(db);
  console.log(`  bare: the rows of its largest tables gone through once in the database, ${seconds(bare)}`);
}
