import { ballotWords, decodeBallot, type Votes } from '../../core/asks/poll/ballot.ts';
import { breakdownOf, type GroupCount } from '../../core/asks/poll/breakdown.ts';
import { outcomeOf, outcomeWords } from '../../core/asks/poll/count/outcome.ts';
import { optionWords, takesOptions, type NumberedOption, type Poll } from '../../core/asks/poll/poll.ts';
import type { BallotsPage, Before, PollResults, Results } from '../../core/asks/results.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { axisMarks } from '../../core/timing/axis.ts';
import type { Session } from '../accounts/service.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { onceForAll } from '../database/onceForAll.ts';
import { csvStream } from '../http/csvStream.ts';
import { Problem } from '../problem.ts';
import { ballotsByStation, ballotsOf, namedBallots, pollOptions } from './poll/ballotStore.ts';
import { outcomeShown } from './poll/outcome.ts';
import { openSecretPolls } from './askStore.ts';
import { answersOverTime, askedBefore, tallyAt } from './resultStore.ts';
import { forgottenOf } from '../retention/keptStore.ts';
import { openAsk, wholeAsk, type Opened } from './service.ts';
import { askedByStation } from './store.ts';
import { withoutNames } from '../../core/asks/ask.ts';

const STEPS = 40;
const MINUTE_MS = 60_000;

/** What an ask has come to: the curve, the one before it, and of a poll its result. */
export async function openResults(
  db: Database,
  session: Pick<Session, 'actor' | 'zone'>,
  occurrenceId: number,
): Promise<Results> {
  const opened = await openAsk(db, session.actor, occurrenceId);
  const { id } = opened.occurrence;
  const { zone } = session;
  return opened.owned
    ? resultsOf(db, zone, opened)
    : onceForAll(db, ['results', id, zone], async () => resultsOf(db, zone, await wholeAsk(db, id)));
}

async function resultsOf(db: Database, zone: string, opened: Opened): Promise<Results> {
  const { occurrence, state } = opened;
  const nowMs = await databaseNow(db);
  const earlier = await askedBefore(db, occurrence);
  // Nor when the votes of an open one came that stands beside another ask.
  const found =
    earlier && (await openSecretPolls(db, [earlier.occurrenceId])).length > 0 ? undefined : earlier;
  const endMs = Math.max(
    occurrence.dueMs + MINUTE_MS,
    Math.min(nowMs, state.closedMs ?? occurrence.deadlineMs ?? nowMs),
  );
  const stepMs = Math.max(MINUTE_MS, Math.ceil((endMs - occurrence.dueMs) / STEPS / MINUTE_MS) * MINUTE_MS);
  // While a poll without names is open, when each vote came is told to nobody.
  const secret = withoutNames(opened.ask) && state.closedMs === null;
  const [own, theirs, before] = await Promise.all([
    answersOverTime(db, occurrence.id, occurrence.dueMs, stepMs),
    found ? answersOverTime(db, found.occurrenceId, found.dueMs, stepMs) : null,
    found
      ? tallyAt(db, found.occurrenceId, found.dueMs + (nowMs - occurrence.dueMs)).then((tally): Before => ({
          ...found,
          ...tally,
        }))
      : null,
  ]);
  const steps = secret ? 0 : Math.ceil((endMs - occurrence.dueMs) / stepMs);
  let answered = 0;
  let answeredBefore = 0;
  const curve = Array.from({ length: steps }, (_, i) => {
    answered += own.get(i) ?? 0;
    answeredBefore += theirs?.get(i) ?? 0;
    return { atMs: occurrence.dueMs + (i + 1) * stepMs, answered, before: theirs ? answeredBefore : null };
  });
  return {
    poll: await pollResults(db, zone, opened, nowMs),
    before,
    beganMs: occurrence.dueMs,
    marks: axisMarks(occurrence.dueMs, curve.at(-1)?.atMs ?? occurrence.dueMs, zone),
    curve,
  };
}

async function pollResults(
  db: Database,
  zone: string,
  { occurrence, ask, state, owned }: Opened,
  nowMs: number,
): Promise<PollResults | null> {
  if (ask.kind !== 'poll') return null;
  const { poll } = ask;
  const closed = state.closedMs !== null;
  // Of an open poll without names the groups would tell what the whole, shown five at a time, does not.
  const parted = !owned && byOption(poll) && (closed || !poll.anonymous);
  const [options, stations, lines, { answersMs }] = await Promise.all([
    pollOptions(db, occurrence.id, poll),
    askedByStation(db, occurrence.id),
    parted ? ballotsByStation(db, occurrence.id) : null,
    forgottenOf(db, occurrence.id),
  ]);
  const asked = stations.reduce((sum, station) => sum + station.asked, 0);
  // Whoever owns a group sees its roll; what others voted is for whoever asked.
  const { outcome, hidden } = owned
    ? { outcome: null, hidden: 'What was voted is seen by whoever asked, and by those who are asked.' }
    : await outcomeShown(db, occurrence.id, poll, options, { closed, asked }, lines && together(lines));
  return {
    question: poll.question,
    kind: poll.kind,
    scale: poll.scale,
    anonymous: poll.anonymous,
    named: owned === null && !poll.anonymous && answersMs === null,
    options: options.map((option) => ({
      id: option.id,
      words: optionWords(option, zone, nowMs),
      addedBy: option.addedBy,
    })),
    outcome,
    hidden,
    words: outcome && outcomeWords(poll, options, outcome, asked, zone, !closed),
    breakdown:
      lines && outcome ? breakdownOf(groupCounts(poll, options, stations, lines), poll.anonymous) : null,
    mayAdd: owned === null && state.closedMs === null && takesOptions(poll.kind),
  };
}

/** Whether what was voted can be told by option, and so by station. */
const byOption = (poll: Poll): boolean => poll.kind !== 'text' && poll.kind !== 'ranking';

/** Equal ballots of several stations as one. */
function together(lines: readonly Votes<string>[]): Votes<string>[] {
  const sums = new Map<string, number>();
  for (const { vote, n } of lines) sums.set(vote, (sums.get(vote) ?? 0) + n);
  return [...sums].map(([vote, n]) => ({ vote, n }));
}

function groupCounts(
  poll: Poll,
  options: readonly NumberedOption[],
  stations: readonly { name: string | null; asked: number }[],
  lines: readonly (Votes<string> & { station: string | null })[],
): GroupCount[] {
  const names = new Set([...stations.map((each) => each.name), ...lines.map((line) => line.station)]);
  // In an organisation without stations nothing is said by them.
  if ([...names].every((name) => name === null)) return [];
  return [...names].map((name) => {
    const own = lines.filter((line) => line.station === name);
    const outcome = outcomeOf(poll, options, own, 0);
    return {
      name: name ?? 'No station, or one of few',
      asked: stations.find((station) => station.name === name)?.asked ?? 0,
      answered: outcome.voted,
      counts: outcome.counts,
    };
  });
}

/**
 * What was voted as a file: of a named poll a row a voter, of one without names, or whose voters were forgotten, equal
 * votes together, once it has closed, and never with a name or a time.
 */
export async function ballotsCsv(
  db: Database,
  session: Session,
  occurrenceId: number,
): Promise<ReadableStream<Uint8Array>> {
  const { occurrence, ask, state, poll, options } = await openPoll(db, session.actor, occurrenceId);
  const nowMs = await databaseNow(db);
  const label = (id: number): string => {
    const option = options.find((each) => each.id === id);
    return option ? optionWords(option, session.zone, nowMs) : String(id);
  };
  const words = (line: string): string => ballotWords(decodeBallot(poll.kind, line), label);
  if (poll.anonymous || (await forgottenOf(db, occurrence.id)).answersMs !== null) {
    const { outcome, hidden } = await outcomeShown(db, occurrence.id, poll, options, {
      closed: state.closedMs !== null,
      asked: 0,
    });
    if (state.closedMs === null || !outcome)
      throw new Problem(409, hidden ?? 'A poll without names can be saved once it has closed.');
    const lines = await ballotsOf(db, occurrence.id);
    const sorted = [...lines].sort((a, b) => b.n - a.n || (a.vote < b.vote ? -1 : 1));
    async function* counted(): AsyncGenerator<string[][]> {
      yield await Promise.resolve(sorted.map((line) => [words(line.vote), String(line.n)]));
    }
    return csvStream([ask.kind === 'poll' ? poll.question : 'Vote', 'Votes'], counted());
  }
  async function* named(): AsyncGenerator<string[][]> {
    let after: { name: string; id: number } | null = null;
    do {
      const page: Awaited<ReturnType<typeof namedBallots>> = await namedBallots(
        db,
        occurrence.id,
        after,
        5000,
      );
      yield page.map((row) => [row.name, row.station ?? '', words(row.choice)]);
      const last = page.at(-1);
      after = page.length === 5000 && last ? { name: last.name, id: last.personId } : null;
    } while (after);
  }
  return csvStream(['Name', 'Station', poll.question], named());
}

const BALLOTS_PAGE = 50;

/**
 * Who chose what in a named poll, by name, page by page.
 *
 * @throws 409 of a poll without names: there is nothing to tell
 */
export async function ballotsPage(
  db: Database,
  session: Pick<Session, 'actor' | 'zone'>,
  occurrenceId: number,
  after: { name: string; id: number } | null,
): Promise<BallotsPage> {
  const { occurrence, poll, options } = await openPoll(db, session.actor, occurrenceId);
  if (poll.anonymous) throw new Problem(409, 'It is a poll without names: nobody sees who chose what.');
  const nowMs = await databaseNow(db);
  const label = (id: number): string => {
    const option = options.find((each) => each.id === id);
    return option ? optionWords(option, session.zone, nowMs) : String(id);
  };
  const found = await namedBallots(db, occurrence.id, after, BALLOTS_PAGE + 1);
  const page = found.slice(0, BALLOTS_PAGE);
  const last = page.at(-1);
  return {
    ballots: page.map((row) => ({
      personId: row.personId,
      name: row.name,
      station: row.station,
      words: ballotWords(decodeBallot(poll.kind, row.choice), label),
    })),
    next: found.length > BALLOTS_PAGE && last ? { name: last.name, id: last.personId } : null,
  };
}

async function openPoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): Promise<Opened & { poll: Poll; options: NumberedOption[] }> {
  const opened = await openAsk(db, actor, occurrenceId);
  if (opened.ask.kind !== 'poll') throw new Problem(409, 'It is no poll.');
  if (opened.owned) throw new Problem(403, 'What was voted is seen by whoever asked.');
  const { poll } = opened.ask;
  return { ...opened, poll, options: await pollOptions(db, opened.occurrence.id, poll) };
}
