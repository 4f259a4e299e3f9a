import type { Asking } from '../../src/core/asks/ask.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { percentile } from '../../src/core/delivery/lateness.ts';
import { EMPTY_POLL, type Poll } from '../../src/core/asks/poll/poll.ts';
import { instantRunoff } from '../../src/core/asks/poll/count/instantRunoff.ts';
import { schulze } from '../../src/core/asks/poll/count/schulze.ts';
import { EMPTY_CONTENT } from '../../src/core/content/announcement.ts';
import { EMPTY_PLAN, type Plan } from '../../src/core/plan/plan.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { freezeVersion } from '../../src/server/announcements/versionStore.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { beginAsk } from '../../src/server/asks/askStore.ts';
import { openResults } from '../../src/server/asks/results.ts';
import { listRoll, openRoll } from '../../src/server/asks/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { insertSend } from '../../src/server/sends/store.ts';
import { insertOccurrence } from '../../src/server/sends/occurrenceStore.ts';
import { coordinator as maud, timed } from './data.ts';
import { sized } from './size.ts';

const PEOPLE = sized(100_000);
const ANSWERS = sized(20_000);
const AT_ONCE = 16;
const SECRET = 'a secret that the bench alone knows';

const poll = (part: Partial<Poll>): Asking => ({
  kind: 'poll',
  deadline: null,
  within: null,
  chase: null,
  joiners: false,
  poll: {
    ...EMPTY_POLL,
    question: 'Which?',
    options: ['A', 'B', 'C', 'D', 'E', 'F'].map((label) => ({ label, at: null })),
    ...part,
  },
});

let sends = 0;

/** A send to everybody that has gone and asks for something, with nobody's answer yet. */
export async function asked(db: Database, ask: Asking, people = PEOPLE): Promise<number> {
  const plan: Plan = { ...EMPTY_PLAN, audience: { kind: 'everyone' }, mail: false, ask };
  const content = { ...EMPTY_CONTENT, title: 'Asked' };
  const announcementId = await insertAnnouncement(db, 1, content, plan, 'committed');
  const versionId = await freezeVersion(db, announcementId, 1, content, 'sent');
  const sendId = await insertSend(db, {
    announcementId,
    versionId,
    createdBy: 1,
    plan,
    key: `bench-answering-${++sends}`,
  });
  const now = Date.now();
  const id = await insertOccurrence(db, {
    sendId,
    versionId,
    recursAt: '',
    buckets: [{ zone: '', dueMs: now, hour: 'ordinary', pastHour: 'as planned' }],
    firstMs: now,
    lastMs: now,
    deadlineMs: null,
  });
  if (id === null) throw new Error('It was planned already');
  await db.raw("UPDATE buckets SET state = 'expanded' WHERE occurrence_id = ?", [id]);
  await db.raw("UPDATE occurrences SET state = 'sent', sent_at = NOW(3) WHERE id = ?", [id]);
  await db.raw(
    `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at, read_at)
     SELECT ?, id, 'inbox', 'delivered', NOW(3), NOW(3), IF(id % 3 = 0, NOW(3), NULL) FROM people LIMIT ?`,
    [id, people],
  );
  await db.raw(
    "INSERT INTO roll (occurrence_id, person_id) SELECT ?, person_id FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'",
    [id, id],
  );
  await beginAsk(db, id, ask, { closesMs: null, listMs: null });
  return id;
}

/** Does something for each of many people, so many at once; gives how long it took in milliseconds. */
async function throng(n: number, work: (i: number) => Promise<unknown>): Promise<number> {
  let next = 0;
  const one = async (): Promise<void> => {
    for (let i = next++; i < n; i = next++) await work(i);
  };
  return timed(() => Promise.all(Array.from({ length: AT_ONCE }, one)));
}

const at = (times: readonly number[], share: number): number => percentile([...times], share) ?? Number.NaN;

const figures = (times: readonly number[]): string =>
  `50th ${at(times, 0.5).toFixed(1)} ms, 95th ${at(times, 0.95).toFixed(1)} ms`;

async function timesOf(n: number, work: () => Promise<unknown>): Promise<number[]> {
  const times: number[] = [];
  for (let i = 0; i < n; i++) times.push(await timed(work));
  return times;
}

/** Twenty thousand answers coming in, and what is read of a hundred thousand people's roll and votes. */
export async function answering(db: Database): Promise<void> {
  await db('stations').insert(
    Array.from({ length: 8 }, (_, i) => ({ id: i + 2, name: `Station ${i + 2}`, zone: 'UTC' })),
  );
  await db.raw('UPDATE people SET station_id = 1 + id % 9');
  const bare = await asked(db, acknowledgement());
  console.log(
    `${ANSWERS.toLocaleString('en-GB')} answers coming in, ${AT_ONCE} at once, to an ask of ${PEOPLE.toLocaleString('en-GB')} people (aim: in a minute)`,
  );
  const bareMs = await throng(ANSWERS, (i) =>
    db.raw(
      'UPDATE roll SET answered_at = NOW(3) WHERE occurrence_id = ? AND person_id = ? AND answered_at IS NULL',
      [bare, i + 1],
    ),
  );
  console.log(`  bare conditional update, a commit each: ${(bareMs / 1000).toFixed(1)} s`);
  let single = 0;
  for (const [words, ask, given] of [
    ['acknowledgements', acknowledgement(), () => ({})],
    ['votes', poll({}), (i: number) => ({ choices: [1 + (i % 6)] })],
    ['votes without names', poll({ anonymous: true }), (i: number) => ({ choices: [1 + (i % 6)] })],
  ] as const) {
    const id = await asked(db, ask);
    if (words === 'votes') single = id;
    const took = await throng(ANSWERS, (i) => answer(db, SECRET, i + 1, id, given(i), 'page'));
    const [counted] = await rows<{ n: number }>(
      db,
      'SELECT COUNT(answered_at) AS n FROM roll WHERE occurrence_id = ?',
      [id],
    );
    console.log(
      `  ${words}: ${(took / 1000).toFixed(1)} s, ${Math.round((ANSWERS / took) * 1000)} a second, ${(took / bareMs).toFixed(2)} times the bare update; ${counted?.n ?? 0} counted`,
    );
  }

  console.log(`\nReading what ${PEOPLE.toLocaleString('en-GB')} people answered`);
  for (const id of [bare, single])
    await db.raw(
      'UPDATE roll SET answered_at = COALESCE(answered_at, NOW(3)) WHERE occurrence_id = ? AND person_id % 10 < 7',
      [id],
    );
  await db.raw(
    `INSERT INTO ballots (occurrence_id, ballot_key, person_id, choice)
     SELECT occurrence_id, UNHEX(LPAD(HEX(person_id), 32, '0')), person_id, 1 + person_id % 6 FROM roll
     WHERE occurrence_id = ? AND answered_at IS NOT NULL ON DUPLICATE KEY UPDATE ballots.choice = ballots.choice`,
    [single],
  );
  const session = { actor: maud, name: 'Maud', zone: 'Europe/London', owns: false };
  const pairs: [string, () => Promise<unknown>, () => Promise<unknown>][] = [
    [
      'roll as a whole and by station',
      () => openRoll(db, maud, bare),
      () =>
        rows(
          db,
          'SELECT p.station_id, COUNT(*), COUNT(r.answered_at) FROM roll r JOIN people p ON p.id = r.person_id WHERE r.occurrence_id = ? GROUP BY p.station_id',
          [bare],
        ),
    ],
    [
      'a page of the roll by name',
      () => listRoll(db, maud, bare, { part: 'waiting', search: '', after: null }),
      () =>
        rows(
          db,
          'SELECT p.id FROM people p JOIN roll r ON r.person_id = p.id AND r.occurrence_id = ? WHERE r.answered_at IS NULL ORDER BY p.name, p.id LIMIT 101',
          [bare],
        ),
    ],
    [
      'poll results, whole, by station, and the curve',
      () => openResults(db, session, single),
      () =>
        rows(db, 'SELECT choice, COUNT(*) FROM ballots WHERE occurrence_id = ? GROUP BY choice', [single]),
    ],
  ];
  for (const [words, ours, theirs] of pairs) {
    await ours();
    const bareTimes = await timesOf(9, theirs);
    const times = await timesOf(9, ours);
    console.log(
      `  ${words}: ${figures(times)}; bare statement ${figures(bareTimes)}, ratio ${(at(times, 0.5) / at(bareTimes, 0.5)).toFixed(2)}`,
    );
  }

  console.log('\nCounting 100,000 different orders of 12 options, in memory');
  const ids = Array.from({ length: 12 }, (_, i) => i + 1);
  let state = 7;
  const random = (): number => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 4_294_967_296;
  const ballots = Array.from({ length: PEOPLE }, () => ({
    n: 1,
    vote: ids
      .map((id) => ({ id, at: random() + id * 0.02 }))
      .sort((a, b) => a.at - b.at)
      .map((each) => each.id),
  }));
  const once = await timed(() =>
    Promise.resolve(ballots.reduce((sum, { vote }) => sum + vote.reduce((all, id) => all + id, 0), 0)),
  );
  console.log(`  reading every place of every ballot once: ${once.toFixed(1)} ms`);
  for (const [words, count] of [
    ['instant runoff', () => instantRunoff(ids, ballots)],
    ['Schulze', () => schulze(ids, ballots)],
  ] as const)
    console.log(`  ${words}: ${(await timed(() => Promise.resolve(count()))).toFixed(1)} ms`);
  console.log('');
}
