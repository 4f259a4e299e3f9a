import { useId, useState } from 'react';
import type { AskBox as Box } from '../../core/asks/box.ts';
import { wordsOfKind } from '../../core/asks/askWords.ts';
import { nearWords, timeWords } from '../../core/timing/words.ts';
import { Moment } from '../Moment.tsx';
import { ApiProblem, request, wordsOf } from '../api.ts';
import { sendOrKeep, useKeptRequests } from '../keptRequests.ts';
import { Notice } from '../Notice.tsx';
import { useAwake } from '../useAwake.ts';
import { setServer, useServer } from '../server.ts';
import type { BoxParts } from './kind.ts';
import { SHOWN_KINDS } from './kinds.ts';

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

function Deadline({ box, zone, nowMs }: { box: Box; zone: string; nowMs: number }) {
  if (box.deadlineMs === null || box.closedMs !== null) return null;
  return (
    <p className="mb-2 text-warning">
      {wordsOfKind(box.kind).until} <Moment at={box.deadlineMs} zone={zone} nowMs={nowMs} /> (
      {timeWords(box.deadlineMs, 'UTC')} UTC).
    </p>
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
  const send = async (given: Record<string, unknown>): Promise<void> => {
    if (!box) return;
    setBusy(true);
    setFailed(undefined);
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
    } finally {
      setBusy(false);
    }
  };
  const press = (given: Record<string, unknown>): Promise<void> =>
    send(given).catch((problem: unknown) => setFailed(wordsOf(problem)));

  return { box, busy, changing, setChanging, error, waits: kept.length > 0, send, press, fetchBox };
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
  const { box, busy, changing, setChanging, error, waits, send, press, fetchBox } = useAnswering({
    occurrenceId,
    first,
    signedPath,
    onAnswered,
  });
  const awake = useAwake();
  const heading = useId();
  if (!box) return error === undefined ? null : <Notice tone="error">{error}</Notice>;

  const { heading: headingOf, change, Answer, Below } = SHOWN_KINDS[box.kind];
  const question = headingOf(box);
  const answered = box.answeredMs !== null;
  const asking = box.closedMs === null && (!answered || changing);
  const parts: BoxParts = {
    box,
    zone,
    asking,
    waits,
    busy,
    asleep: !awake,
    preset,
    signed: signedPath !== undefined,
    linked,
    send,
    press,
    refetch: fetchBox,
  };
  return (
    <div
      role="group"
      className="my-6 border-l-4 border-primary bg-base-100 px-4 py-2"
      aria-labelledby={heading}
    >
      <p
        id={heading}
        className={question === null ? 'sr-only' : 'mb-2 font-display text-lg font-semibold'}
        dir="auto"
      >
        {question ?? 'What is asked of you'}
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
          {wordsOfKind(box.kind).youDid}{' '}
          {box.answeredMs === null ? '' : nearWords(box.answeredMs, zone, nowMs)}.
        </p>
      ) : null}
      {error === undefined ? null : (
        <div className="mb-2">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
      <Answer {...parts} />
      {answered && box.closedMs === null && change !== null && !changing ? (
        <button type="button" className="btn btn-outline" onClick={() => setChanging(true)}>
          {change}
        </button>
      ) : null}
      {Below ? <Below {...parts} /> : null}
    </div>
  );
}
