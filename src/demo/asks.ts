import type { Ask, Asking } from '../core/asks/ask.ts';
import { closes } from '../core/asks/ask.ts';
import { encodeBallot, type Ballot } from '../core/asks/poll/ballot.ts';
import type { DateAnswer } from '../core/asks/poll/pollKinds.ts';
import { LEAST_SHOWN } from '../core/asks/poll/breakdown.ts';
import { USUAL_CHASE } from '../core/asks/chase.ts';
import { USUAL_QUESTIONS, type CheckInAnswers, type Question } from '../core/asks/check-in/checkIn.ts';
import { EMPTY_POLL, optionsOf, type Poll } from '../core/asks/poll/poll.ts';
import { WEEKLY } from '../core/timing/rule.ts';
import { beginAsk } from '../server/asks/askStore.ts';
import { castBallots, stationsForBallots } from '../server/asks/poll/ballotStore.ts';
import { insertCheckInReply, saveCheckIns } from '../server/asks/check-in/checkInStore.ts';
import { ballotKey } from '../server/asks/poll/secretBallot.ts';
import { change, rows, type Database } from '../server/database/connection.ts';
import { seeded } from './random.ts';
import { doc, type Item } from './texts.ts';

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;

const common = { deadline: null, within: null, chase: null, joiners: false } as const;
const labels = (...words: string[]): Poll['options'] => words.map((label) => ({ label, at: null }));

const ROUND: Question[] = [
  ...USUAL_QUESTIONS,
  { text: 'How many drawers did you get through?', kind: 'number', part: 'none', options: [], needed: false },
];

/** Polls and a check-in, those that are past, open and still to come. */
export const ASK_ITEMS: Item[] = [
  {
    title: 'Dates for the winter drill',
    document: doc('Forty minutes, by video, keys at hand. Say which of these suit you.'),
    whom: { to: ['First aiders'] },
    boards: [],
    day: -1,
    at: '09:30',
    by: 'maud',
    answered: 0.6,
    ask: ({ by, at }) => ({
      ...common,
      kind: 'poll',
      deadline: by(72),
      chase: { ...USUAL_CHASE, from: 'before', hours: 24, most: 1 },
      poll: {
        ...EMPTY_POLL,
        question: 'When can you take part in the winter drill?',
        kind: 'dates',
        shown: 'always',
        options: [
          { label: '', at: at(8, '07:30', 'Europe/London') },
          { label: '', at: at(9, '20:00', 'Europe/London') },
          { label: '', at: at(12, '17:00', 'Asia/Kathmandu') },
        ],
      },
    }),
  },
  {
    title: 'Supper after the open morning',
    document: doc('The kitchen at Marrow Fen counts plates on Friday.'),
    whom: { to: ['Marrow Fen', 'Sant Elm'] },
    boards: ['Marrow Fen'],
    day: -2,
    at: '12:00',
    by: 'maud',
    answered: 0.7,
    ask: ({ by }) => ({
      ...common,
      kind: 'poll',
      deadline: by(120),
      joiners: true,
      poll: {
        ...EMPTY_POLL,
        question: 'What do you eat at the supper?',
        options: labels('Everything', 'Vegetarian', 'Vegan', 'I am not coming'),
        shown: 'always',
        adding: true,
      },
    }),
  },
  {
    title: 'Which walk next spring?',
    document: doc('One walk gets the van. Put them in order.'),
    whom: { to: ['Field collectors on the road'] },
    boards: [],
    day: -9,
    at: '08:00',
    by: 'maud',
    answered: 0.85,
    ask: ({ by }) => ({
      ...common,
      kind: 'poll',
      deadline: by(96),
      poll: {
        ...EMPTY_POLL,
        question: 'Which walk should the van go to?',
        kind: 'ranking',
        method: 'instant runoff',
        options: labels('The limestone ridge', 'The salt meadow', 'The upper beech wood', 'The old railway'),
      },
    }),
  },
  {
    title: 'Budget for the tenth station: a first vote',
    importance: 'important',
    document: doc('For the survey only. The valley itself is not decided by this.'),
    whom: { to: ['Trustees', 'Vault keyholders'] },
    boards: [],
    day: -6,
    at: '15:00',
    by: 'maud',
    answered: 0.8,
    ask: ({ by }) => ({
      ...common,
      kind: 'poll',
      deadline: by(48),
      poll: {
        ...EMPTY_POLL,
        question: 'Shall the survey of the southern valley be paid for?',
        kind: 'approval',
        anonymous: true,
        shown: 'after closing',
        quorum: 50,
        majority: 'two thirds',
      },
    }),
  },
  {
    title: 'Catalogue round',
    document: doc('Three lines on where you are with your drawers.'),
    whom: { to: ['Catalogue working party'] },
    boards: [],
    when: 'recurring',
    byReaders: true,
    rule: { ...WEEKLY, weekdays: ['MO', 'TU', 'WE', 'TH', 'FR'] },
    mail: true,
    day: -7,
    at: '09:00',
    by: 'maud',
    answered: 0.75,
    ask: ({ board }) => ({
      ...common,
      kind: 'check-in',
      within: 9,
      questions: ROUND,
      digestOn: [board('Catalogue working party')],
    }),
  },
];

const DONE = [
  'Drawers 14 to 22 of the grasses, photographs included.',
  'The poppies are through, but for two envelopes without a date.',
  'Labels for the whole east wall.',
  'Read the loan register against the shelf.',
  'Half of the sedges; the lens was dirty.',
];
const NEXT = [
  'The rest of the sedges.',
  'Drawers 23 to 30.',
  'The envelopes that had no date.',
  'Printing the new labels.',
  'Asking Oru Terrace for their numbers.',
];
const BLOCKED = [
  'The label printer at Marrow Fen is out of ribbon.',
  'I cannot open the register: my account was not renewed.',
];

function ballotOf(poll: Poll, random: () => number): Ballot {
  const ids = optionsOf(poll).map((option) => option.id);
  const leaning = (): number => ids[Math.floor(random() ** 1.6 * ids.length)] ?? 1;
  switch (poll.kind) {
    case 'dates':
      return {
        kind: 'dates',
        answers: Object.fromEntries(
          ids.map((id): [number, DateAnswer] => {
            const chance = random() + (id === 2 ? -0.2 : 0);
            return [id, chance < 0.45 ? 'yes' : chance < 0.65 ? 'if need be' : 'no'];
          }),
        ),
      };
    case 'ranking':
      return {
        kind: 'ranking',
        ranking: ids
          .map((id) => ({ id, at: random() + id * 0.03 }))
          .sort((a, b) => a.at - b.at)
          .slice(0, random() < 0.3 ? 2 : ids.length)
          .map((each) => each.id),
      };
    case 'rating':
      return { kind: 'rating', rating: 1 + Math.floor(random() * poll.scale) };
    case 'text':
      return { kind: 'text', text: 'Yes, gladly' };
    default:
      return { kind: 'choices', choices: [leaning()] };
  }
}

const one = (random: () => number, from: readonly string[]): string =>
  from[Math.floor(random() * from.length)] ?? '';

/** What those on a roll who have answered said: votes, or check-ins; the same at every start. */
export async function layAnswers(
  db: Database,
  secret: string,
  asked: { occurrenceId: number; ask: Ask; deadlineMs: number | null; nowMs: number },
): Promise<void> {
  const { occurrenceId, ask, deadlineMs, nowMs } = asked;
  if (ask.kind === 'nothing') return;
  await beginAsk(db, occurrenceId, ask, {
    closesMs: closes(ask) ? deadlineMs : null,
    listMs: null,
  });
  const over = closes(ask) && deadlineMs !== null && deadlineMs <= nowMs;
  if (over)
    // What closed long ago was settled then; of the last two days the house does it when it starts.
    await change(
      db,
      `UPDATE asks SET closed_at = closes_at, closed_why = 'time', settled_at = IF(? > 2, closes_at, NULL)
       WHERE occurrence_id = ?`,
      [(nowMs - deadlineMs) / DAY_MS, occurrenceId],
    );
  if (ask.kind === 'acknowledgement') return;
  const found = await rows<{ personId: number }>(
    db,
    'SELECT person_id AS personId FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL ORDER BY person_id',
    [occurrenceId],
  );
  const random = seeded(occurrenceId * 7919);
  for (const { personId } of found) await sayFor(db, secret, occurrenceId, personId, ask, random);
  if (ask.kind === 'check-in') await layThread(db, occurrenceId, over);
}

async function sayFor(
  db: Database,
  secret: string,
  occurrenceId: number,
  personId: number,
  ask: Asking,
  random: () => number,
): Promise<void> {
  if (ask.kind === 'poll') {
    const { poll } = ask;
    const stations = await stationsForBallots(
      db,
      occurrenceId,
      poll.anonymous ? [personId] : [],
      LEAST_SHOWN,
    );
    await castBallots(db, occurrenceId, [
      {
        key: ballotKey(secret, occurrenceId, personId, poll.anonymous),
        who: poll.anonymous ? { stationId: stations.get(personId) ?? null } : { personId },
        choice: encodeBallot(ballotOf(poll, random)),
      },
    ]);
  }
  if (ask.kind === 'check-in') {
    const answers: CheckInAnswers = { 0: one(random, DONE), 1: one(random, NEXT) };
    const blocked = random() < 0.2;
    if (blocked) answers[2] = one(random, BLOCKED);
    if (random() < 0.8) answers[3] = String(2 + Math.floor(random() * 14));
    await saveCheckIns(db, occurrenceId, [{ personId, answers, blocked }]);
    await change(
      db,
      `UPDATE check_ins c JOIN roll r ON r.occurrence_id = c.occurrence_id AND r.person_id = c.person_id
       SET c.answered_at = r.answered_at WHERE c.occurrence_id = ? AND c.person_id = ?`,
      [occurrenceId, personId],
    );
  }
}

/** Somebody helps whoever is blocked; on days that are over they are blocked no more. */
async function layThread(db: Database, occurrenceId: number, over: boolean): Promise<void> {
  const stuck = await rows<{ personId: number }>(
    db,
    'SELECT person_id AS personId FROM check_ins WHERE occurrence_id = ? AND blocked ORDER BY person_id',
    [occurrenceId],
  );
  const others = await rows<{ personId: number }>(
    db,
    'SELECT person_id AS personId FROM check_ins WHERE occurrence_id = ? AND NOT blocked ORDER BY person_id LIMIT 1',
    [occurrenceId],
  );
  const helper = others[0]?.personId;
  if (helper === undefined) return;
  for (const { personId } of over ? stuck : stuck.slice(1)) {
    await insertCheckInReply(db, {
      occurrenceId,
      personId,
      authorId: helper,
      text: 'There is a spare in the second cupboard on the left. I put it on your desk.',
      key: `demo-${occurrenceId}-${personId}`,
    });
    await change(
      db,
      `UPDATE check_ins SET unblocked_at = answered_at + INTERVAL 40 MINUTE, unblocked_by = ?
       WHERE occurrence_id = ? AND person_id = ?`,
      [helper, occurrenceId, personId],
    );
  }
}
