import { useState } from 'react';
import type { AskKind } from '../../core/asks/askWords.ts';
import type { InboxItem } from '../../core/inbox/inbox.ts';
import { timeWords } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { sendOrKeep, useKeptRequests } from '../../ui/keptRequests.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

export const fetchAskBox = () => import('../../ui/ask/AskBox.tsx').then((module) => module.default);
const AskBox = lazily(fetchAskBox);

const PLEASE: Record<AskKind, string> = {
  nothing: 'By',
  acknowledgement: 'Please acknowledge by',
  poll: 'Open for votes until',
  'check-in': 'Open until',
};

const DONE: Record<AskKind, string> = {
  nothing: 'Answered',
  acknowledgement: 'Acknowledged',
  poll: 'Voted',
  'check-in': 'Checked in',
};

const DEED: Record<AskKind, string> = {
  nothing: 'Open',
  acknowledgement: 'Read and agree',
  poll: 'Vote',
  'check-in': 'Check in',
};

/** Something that needs an answer, on a line with its button; what takes more than one press opens in place. */
export function Waiting({
  item,
  onSent,
  zone,
  nowMs,
  onDone,
}: {
  item: InboxItem;
  /** Called after an answer that was kept until it could be taken was sent. */
  onSent: () => void;
  zone: string;
  nowMs: number;
  onDone: (answeredMs: number) => void;
}) {
  const awake = useAwake();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const [open, setOpen] = useState(false);
  const kept = useKeptRequests(`ask:${item.occurrenceId}`, onSent, setError).length > 0;
  const oneTap = item.asks === 'acknowledgement' && !item.agrees;
  const over = item.deadlineMs !== null && item.deadlineMs < nowMs;
  const answer = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const done = await sendOrKeep(
        `ask:${item.occurrenceId}`,
        `/api/for-me/${item.occurrenceId}/acknowledge`,
        undefined,
      );
      if (done !== 'kept') onDone(done.answeredMs);
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setBusy(false);
  };
  const words = oneTap ? 'Acknowledge' : DEED[item.asks];
  return (
    <li className="border-t border-base-300 px-3 py-2 first:border-0">
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-1">
        <div className="min-w-0 grow basis-60">
          <h3 className="text-base">
            <a className="link-quiet" href={`/for-me/${item.occurrenceId}`} dir="auto">
              {item.title}
            </a>{' '}
            <ImportanceWord importance={item.importance} />
          </h3>
          {item.answeredMs !== null ? (
            <p role="status" className="text-sm font-semibold text-success">
              {DONE[item.asks]} at {timeWords(item.answeredMs, zone)}. Thank you.
            </p>
          ) : kept ? (
            <p role="status" className="text-sm font-semibold text-warning">
              Your answer is kept on this device. It is sent when the connection is back, or you have signed
              in again.
            </p>
          ) : item.deadlineMs === null ? null : (
            <p className={`text-sm ${over ? 'text-error' : 'text-warning'}`}>
              {over ? 'Was asked by' : PLEASE[item.asks]}{' '}
              <Moment at={item.deadlineMs} zone={zone} nowMs={nowMs} />
            </p>
          )}
        </div>
        {item.answeredMs !== null || kept || open ? null : (
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || !awake}
            onClick={() => (oneTap ? void answer() : setOpen(true))}
            aria-label={`${words}: ${item.title}`}
          >
            {words}
          </button>
        )}
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {open && !kept ? (
        <AskBox
          occurrenceId={item.occurrenceId}
          first={null}
          zone={zone}
          nowMs={nowMs}
          onAnswered={(box) => {
            if (box.answeredMs !== null) onDone(box.answeredMs);
          }}
        />
      ) : null}
    </li>
  );
}
