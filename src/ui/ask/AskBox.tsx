import { useId, useState } from 'react';
import { ballotWords } from '../../core/asks/ballot.ts';
import type { AskBox as Box } from '../../core/asks/box.ts';
import { nearWords, timeWords } from '../../core/timing/words.ts';
import { Moment } from '../Moment.tsx';
import { ApiProblem, request, wordsOf } from '../api.ts';
import { sendOrKeep, useKeptRequests } from '../keptRequests.ts';
import { Notice } from '../Notice.tsx';
import { useAwake } from '../useAwake.ts';
import { AddOption } from './AddOption.tsx';
import { CheckInForm } from './CheckInForm.tsx';
import { OutcomeView } from './OutcomeView.tsx';
import { PollForm } from './PollForm.tsx';
import { useServer, setServer } from '../server.ts';

export interface AskBoxProps {
  occurrenceId: number;
  /** What is asked as it was when the page was made; null where it is fetched. */
  first: Box | null;
  zone: string;
  nowMs: number;
  /** Of a page opened from mail: where the box is read and answered without signing in. */
  signedPath?: `/m/answer/${string}/box` | undefined;
  /** An option chosen in the mail already. */
  preset?: number | null;
  /** Called after an answer was taken. */
  onAnswered?: ((box: Box) => void) | undefined;
  /** Whether it leads to the page of its check-in. */
  linked?: boolean;
}

const doneWords = (box: Box, zone: string, nowMs: number): string => {
  const at = box.answeredMs === null ? '' : nearWords(box.answeredMs, zone, nowMs);
  if (box.kind === 'poll') return `You voted ${at}.`;
  if (box.kind === 'check-in') return `You checked in ${at}.`;
  return `You acknowledged this ${at}.`;
};

const chosenWords = (poll: NonNullable<Box['poll']>): string =>
  poll.mine === null
    ? ''
    : ballotWords(poll.mine, (id) => poll.options.find((option) => option.id === id)?.words ?? String(id)) ||
      'none of them';

const DEADLINE: Record<Box['kind'], string> = {
  acknowledgement: 'Please acknowledge by',
  poll: 'Open for votes until',
  'check-in': 'Open until',
};

function Deadline({ box, zone, nowMs }: { box: Box; zone: string; nowMs: number }) {
  if (box.deadlineMs === null || box.closedMs !== null) return null;
  return (
    <p className="mb-2 text-warning">
      {DEADLINE[box.kind]} <Moment at={box.deadlineMs} zone={zone} nowMs={nowMs} /> (
      {timeWords(box.deadlineMs, 'UTC')} UTC).
    </p>
  );
}

/** One tap, with what one agrees to where there is something to agree to. */
function Acknowledge({ box, busy, onPress }: { box: Box; busy: boolean; onPress: () => void }) {
  return (
    <>
      {box.earlierMs === null ? null : (
        <p className="mb-2 text-warning">
          It has changed since you acknowledged it. Please read it again and acknowledge it as it is now.
        </p>
      )}
      {box.statement === '' ? null : (
        <p className="mb-3 border-l-4 border-primary pl-3" dir="auto">
          {box.statement}
        </p>
      )}
      <button
        type="button"
        className="btn btn-primary btn-lg w-full sm:w-auto"
        disabled={busy}
        onClick={onPress}
      >
        {box.statement === '' ? 'Acknowledge' : 'I agree and acknowledge'}
      </button>
    </>
  );
}

/** Answers what is asked; without a connection the answer is kept on this device and sent later. */
function useAnswering({
  occurrenceId,
  first,
  signedPath,
  onAnswered,
}: Pick<AskBoxProps, 'occurrenceId' | 'first' | 'signedPath' | 'onAnswered'>) {
  const [busy, setBusy] = useState(false);
  const [changing, setChanging] = useState(false);
  const [failed, setFailed] = useState<string>();
  const [problems, setProblems] = useState<{ field: string; detail: string }[]>([]);
  const readPath = signedPath ?? (`/api/asks/${occurrenceId}/box` as const);
  const query = useServer(readPath, {
    first: first ?? undefined,
    // What comes by a signed link is read by nobody who is signed in.
    topics: (box) => (signedPath === undefined ? [`roll:${box.occurrenceId}`] : []),
  });
  const box = query.data ?? null;
  const fetchBox = (): void => void query.refetch();
  const kept = useKeptRequests(
    `ask:${box?.occurrenceId ?? occurrenceId}`,
    () => {
      if (signedPath === undefined) fetchBox();
    },
    setFailed,
  );
  // What is not asked of this reader has no box.
  const none = query.error instanceof ApiProblem && query.error.status === 404;
  const error = failed ?? (query.error && !none ? wordsOf(query.error) : undefined);
  /** Whether it was taken, or kept to be sent later. */
  const answer = async (given: Record<string, unknown>): Promise<boolean> => {
    if (!box) return false;
    let taken = true;
    setBusy(true);
    setFailed(undefined);
    setProblems([]);
    try {
      const take = async (taken: Box): Promise<void> => {
        await setServer(readPath, taken);
        onAnswered?.(taken);
      };
      if (signedPath !== undefined) await take(await request('POST', signedPath, given));
      else {
        const done = await sendOrKeep(
          `ask:${box.occurrenceId}`,
          `/api/asks/${box.occurrenceId}/answer`,
          given,
        );
        if (done !== 'kept') await take(done);
      }
      setChanging(false);
    } catch (problem) {
      setFailed(wordsOf(problem));
      if (problem instanceof ApiProblem) setProblems(problem.errors);
      taken = false;
    }
    setBusy(false);
    return taken;
  };

  return { box, busy, changing, setChanging, error, problems, waits: kept.length > 0, answer, fetchBox };
}

/** How the vote stands, or why that is not shown. */
function Outcome({ box, poll }: { box: Box; poll: NonNullable<Box['poll']> }) {
  return (
    <div className="mt-4">
      {poll.outcome ? (
        <OutcomeView outcome={poll.outcome} options={poll.options} kind={poll.kind} asked={box.asked} />
      ) : (
        <p className="text-sm text-quiet">{poll.hidden}</p>
      )}
    </div>
  );
}

/** What is asked of the reader, answered where they read it; what others answer shows without a reload. */
export default function AskBox({
  occurrenceId,
  first,
  zone,
  nowMs,
  signedPath,
  preset = null,
  linked = true,
  onAnswered,
}: AskBoxProps) {
  const { box, busy, changing, setChanging, error, problems, waits, answer, fetchBox } = useAnswering({
    occurrenceId,
    first,
    signedPath,
    onAnswered,
  });
  const awake = useAwake();
  const heading = useId();
  if (!box) return error === undefined ? null : <Notice tone="error">{error}</Notice>;

  const { poll, checkIn } = box;
  const answered = box.answeredMs !== null;
  const asking = box.closedMs === null && (!answered || changing);
  return (
    <div
      role="group"
      className="my-6 border-l-4 border-primary bg-base-100 px-4 py-2"
      aria-labelledby={heading}
    >
      <p id={heading} className={poll ? 'mb-2 font-display text-lg font-semibold' : 'sr-only'} dir="auto">
        {poll ? poll.question : 'What is asked of you'}
      </p>
      {asking && !waits ? <Deadline box={box} zone={zone} nowMs={nowMs} /> : null}
      {box.closedMs === null ? null : (
        <p className="mb-2 text-quiet">
          Closed <Moment at={box.closedMs} zone={zone} nowMs={nowMs} />.
        </p>
      )}
      {waits ? (
        <p role="status" className="mb-2 font-semibold text-warning">
          Your answer is kept on this device. It is sent when the connection is back, or you have signed in
          again.
        </p>
      ) : answered ? (
        <p role="status" className="mb-2 font-semibold text-success">
          {doneWords(box, zone, nowMs)}
        </p>
      ) : null}
      {error === undefined ? null : (
        <div className="mb-2">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
      {asking && !waits && box.kind === 'acknowledgement' ? (
        <Acknowledge box={box} busy={busy || !awake} onPress={() => void answer({})} />
      ) : null}
      {poll && !waits && box.closedMs === null ? (
        <ul className="mb-2 text-sm text-quiet" aria-label="How this vote works">
          {poll.rules.map((rule) => (
            <li key={rule}>{rule}</li>
          ))}
        </ul>
      ) : null}
      {poll?.mine && !asking ? (
        <p className="mb-2" dir="auto">
          You chose: <strong>{chosenWords(poll)}</strong>.
        </p>
      ) : null}
      {asking && !waits && poll ? (
        <PollForm
          poll={poll}
          preset={preset}
          busy={busy}
          asleep={!awake}
          onSend={(given) => void answer(given)}
        />
      ) : null}
      {asking && !waits && checkIn ? (
        <CheckInForm
          occurrenceId={box.occurrenceId}
          checkIn={checkIn}
          answered={answered}
          busy={busy}
          asleep={!awake}
          problems={problems}
          onSend={(answers, taken) => void answer({ answers }).then((done) => (done ? taken() : undefined))}
        />
      ) : null}
      {answered && box.closedMs === null && box.kind !== 'acknowledgement' && !changing ? (
        <button type="button" className="btn btn-outline" onClick={() => setChanging(true)}>
          {poll ? 'Change my vote' : 'Change what I said'}
        </button>
      ) : null}
      {poll && (!asking || answered || poll.shown === 'always') ? <Outcome box={box} poll={poll} /> : null}
      {poll?.adding && signedPath === undefined ? (
        <AddOption id={box.occurrenceId} dates={poll.kind === 'dates'} zone={zone} onAdded={fetchBox} />
      ) : null}
      {checkIn && linked && signedPath === undefined ? (
        <p className="mt-3">
          <a className="link-quiet" href={`/check-ins/${box.occurrenceId}`}>
            What everybody said
          </a>
        </p>
      ) : null}
    </div>
  );
}
