import { PRESETS } from '../core/boards/switches.ts';
import type { Reaction } from '../core/boards/reaction.ts';
import { simpleContent } from '../core/content/announcement.ts';
import { EMPTY_PLAN } from '../core/plan/plan.ts';
import { insertAnnouncement } from '../server/announcements/store.ts';
import { freezeVersion } from '../server/announcements/versionStore.ts';
import { insertBoard, replaceLinks, setFollow, setModerator } from '../server/boards/store.ts';
import { change, rows, type Database } from '../server/database/connection.ts';
import { insertMemberPost } from '../server/posts/store.ts';
import { insertReply } from '../server/replies/store.ts';
import { insertThanks, ribbons } from '../server/thanks/store.ts';
import type { DemoPeople } from './people.ts';
import { seeded } from './random.ts';
import { doc } from './texts.ts';
import { HELD, MEMBER_POSTS, REPLIES, THANKS } from './talk.ts';

type Ids = Map<string, number>;

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;

/** The places where announcements stay. */
export async function layBoards(db: Database, people: DemoPeople, groups: Ids): Promise<Ids> {
  const ids: Ids = new Map();
  const add = async (
    name: string,
    about: string,
    group: string | null,
    purpose: keyof typeof PRESETS,
    [owner = 'maud', ...moderators]: string[],
    takesThanks = false,
  ): Promise<void> => {
    const id = await insertBoard(db, {
      name,
      about,
      groupId: group === null ? null : (groups.get(group) ?? null),
      ...PRESETS[purpose].switches,
      ownerId: people.byMail(owner),
      takesThanks,
      position: ids.size + 1,
    });
    ids.set(name, id);
    for (const mail of moderators) await setModerator(db, id, people.byMail(mail), true);
  };
  await add('All stations', 'News that concerns all nine stations, from the network office.', null, 'news', [
    'maud',
    'jago',
  ]);
  await add('House rules', 'What holds everywhere. Read it once, come back when in doubt.', null, 'to read', [
    'maud',
  ]);
  await add(
    'Vault alerts',
    'Readings, alarms and keys. For those who hold a key.',
    'Vault keyholders',
    'news',
    ['jago', 'otieno'],
  );
  await add(
    'Field season',
    'Roads, permits, weather and finds, for those on the road.',
    'Field collectors on the road',
    'talk',
    ['nuria', 'sarita'],
  );
  await add(
    'Thanks',
    'Say thank you in public. One sentence is enough.',
    null,
    'everybody',
    ['otieno', 'kailani'],
    true,
  );
  await add(
    'Catalogue working party',
    'Labels, names and question marks.',
    'Catalogue working party',
    'held',
    ['jago'],
  );
  await add(
    'Loans',
    'Seed that is asked for, who decides on it, and what became of it.',
    'Vault keyholders',
    'news',
    ['jago'],
  );
  const mails = ['maud', 'jago', 'nuria', 'aroha', 'otieno', 'kailani', 'wren', 'sarita', 'keola', 'marli'];
  for (const place of people.stations.keys()) {
    const local = people.all.find((person) => person.id <= 10 && person.place === place);
    await add(place, `Everything around the station at ${place}.`, place, 'talk', [
      mails[(local?.id ?? 1) - 1] ?? 'maud',
    ]);
  }
  return ids;
}

/** The key of the form by which a station asks for field kit. */
export const KIT_FORM = 'fieldkitfieldkitfield1';
const KIT_LINK = 'Ask for field kit';
const kitFormUrl = (origin: string): string => `${origin}/forms/${KIT_FORM}`;

/** Says where the application answers, where a board links to a form of it; its port may be another at each start. */
export async function placeLinks(db: Database, origin: string): Promise<void> {
  await change(db, 'UPDATE board_links SET url = ? WHERE label = ?', [kitFormUrl(origin), KIT_LINK]);
}

interface Person {
  id: number;
  zone: string;
}

/** What members wrote, said to it and thanked each other for; what waits for moderators. */
export async function layTalk(db: Database, nowMs: number, people: DemoPeople, boards: Ids): Promise<void> {
  const random = seeded(20_260_402);
  const post = async (
    board: string,
    mail: string,
    title: string,
    text: string,
    atMs: number,
    state: 'up' | 'held' = 'up',
  ): Promise<number> => {
    const author = people.byMail(mail);
    const content = simpleContent(title, doc(text));
    const announcementId = await insertAnnouncement(db, author, content, EMPTY_PLAN, 'committed');
    const id = await insertMemberPost(db, {
      boardId: boards.get(board) ?? 0,
      versionId: await freezeVersion(db, announcementId, author, content, 'sent'),
      authorId: author,
      key: `demo-${announcementId}`,
      state,
    });
    await change(db, 'UPDATE posts SET posted_at = ? WHERE id = ?', [new Date(atMs), id]);
    return id;
  };
  for (const [daysAgo, board, mail, title, text] of MEMBER_POSTS)
    await post(board, mail, title, text, nowMs - daysAgo * DAY_MS + Math.round(random() * 4 * HOUR_MS));
  for (const [hoursAgo, board, mail, title, text] of HELD)
    await post(board, mail, title, text, nowMs - hoursAgo * HOUR_MS, 'held');
  await layThanks(db, nowMs, people, post);

  const postOf = async (
    title: string,
  ): Promise<{ id: number; boardId: number; atMs: number } | undefined> => {
    const [found] = await rows<{ id: number; boardId: number; atMs: Date }>(
      db,
      `SELECT o.id, o.board_id AS boardId, o.posted_at AS atMs FROM posts o JOIN announcement_versions v ON v.id = o.version_id
       WHERE v.title = ? AND o.part = 1 ORDER BY o.posted_at DESC LIMIT 1`,
      [title],
    );
    return found && { ...found, atMs: found.atMs.getTime() };
  };
  for (const [title, replies] of REPLIES) {
    const found = await postOf(title);
    if (!found) throw new Error(`The demo has no post “${title}” to reply to`);
    const stepMs = Math.min(3 * HOUR_MS, (nowMs - found.atMs) / (replies.length + 2));
    for (const [i, [mail, text]] of replies.entries()) {
      const id = await insertReply(db, {
        postId: found.id,
        authorId: people.byMail(mail),
        document: doc(text),
        files: [],
        key: `demo-${found.id}-${i}`,
      });
      await change(db, 'UPDATE replies SET written_at = ? WHERE id = ?', [
        new Date(found.atMs + stepMs * (i + 1)),
        id,
      ]);
    }
  }
  await layReactions(db, random);
  const reported = await postOf('Turtles on the south path');
  if (reported)
    await db('reports').insert({
      subject: 'post',
      subject_id: reported.id,
      board_id: reported.boardId,
      reporter_id: people.byMail('keola'),
      reason: 'The path is closed since yesterday, this sends people there.',
      at: new Date(nowMs - 2 * HOUR_MS),
    });
  await replaceLinks(db, boards.get('All stations') ?? 0, [
    { label: 'Station addresses', url: 'https://thistledown.example/stations' },
    { label: 'Duty rota', url: 'https://thistledown.example/rota' },
  ]);
  await replaceLinks(db, boards.get('Field season') ?? 0, [
    { label: KIT_LINK, url: kitFormUrl('http://localhost:1') },
  ]);
  for (const mail of ['wren', 'keola'])
    await setFollow(db, people.byMail(mail), 'board', boards.get('House rules') ?? 0, 'follow');
  await change(db, 'UPDATE people SET welcomed_at = ?', [new Date(nowMs - DAY_MS)]);
  // Everybody has seen what is older than two days, and the named ones what is older than one.
  await change(
    db,
    `INSERT INTO board_marks (person_id, board_id, read_to)
     SELECT p.id, b.id, ? FROM people p JOIN boards b WHERE p.standing <> 'left' AND p.linked_to IS NULL`,
    [new Date(nowMs - DAY_MS)],
  );
  // Six in ten had what is older on their screen, on the boards of everybody.
  const dayAgo = new Date(nowMs - DAY_MS);
  await change(
    db,
    `INSERT IGNORE INTO post_reads (person_id, post_id, read_at)
     SELECT p.id, o.id, LEAST(o.posted_at + INTERVAL MOD(p.id * 31 + o.id * 17, 900) MINUTE, ?)
     FROM people p JOIN posts o JOIN boards b ON b.id = o.board_id AND b.group_id IS NULL
     WHERE p.standing <> 'left' AND p.linked_to IS NULL AND o.state = 'up' AND o.posted_at < ?
       AND MOD(p.id * 7 + o.id * 13, 10) < 6`,
    [dayAgo, dayAgo],
  );
}

async function layThanks(
  db: Database,
  nowMs: number,
  people: DemoPeople,
  post: (board: string, mail: string, title: string, text: string, atMs: number) => Promise<number>,
): Promise<void> {
  const all = await ribbons(db);
  for (const [daysAgo, ribbonName, from, to, sentence] of THANKS) {
    const ribbon = all.find((each) => each.name === ribbonName);
    if (!ribbon) throw new Error(`There is no ribbon “${ribbonName}”`);
    const atMs = nowMs - daysAgo * DAY_MS - 3 * HOUR_MS;
    const ids = to.map((mail) => people.byMail(mail));
    const names = people.all.filter((person) => ids.includes(person.id)).map((person) => person.name);
    const postId = await post(
      'Thanks',
      from,
      `${ribbon.name}: thank you, ${names.join(' and ')}`,
      sentence,
      atMs,
    );
    const id = await insertThanks(db, {
      ribbonId: ribbon.id,
      fromId: people.byMail(from),
      sentence,
      postId,
      to: ids,
    });
    await change(db, 'UPDATE thanks SET at = ? WHERE id = ?', [new Date(atMs), id]);
  }
}

/** Some people react to what stands where reactions are taken. */
async function layReactions(db: Database, random: () => number): Promise<void> {
  const posts = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM posts o JOIN boards b ON b.id = o.board_id WHERE b.reacting = 'members' AND o.state = 'up' AND o.part = 1
     ORDER BY o.id`,
  );
  const people = await rows<Person>(
    db,
    "SELECT id, zone FROM people WHERE standing = 'active' AND linked_to IS NULL ORDER BY id",
  );
  const kinds: [Reaction, number][] = [
    ['glad', 0.5],
    ['heard', 0.4],
    ['help', 0.15],
    ['wonder', 0.12],
    ['weight', 0.06],
  ];
  const given: Record<string, unknown>[] = [];
  for (const post of posts)
    for (const [kind, share] of kinds) {
      if (random() > share) continue;
      const n = 1 + Math.floor(random() * 14 * share * 2);
      const from = Math.floor(random() * (people.length - n));
      for (const person of people.slice(from, from + n))
        given.push({ subject: 'post', subject_id: post.id, kind, person_id: person.id });
    }
  if (given.length > 0) await db('reactions').insert(given);
}
