import { useState } from 'react';
import type { ForMe as ForMeData, InboxItem } from '../../core/inbox/inbox.ts';
import { dateWords, momentWords, timeWords } from '../../core/timing/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

function Waiting({
  item,
  zone,
  nowMs,
  onDone,
}: {
  item: InboxItem;
  zone: string;
  nowMs: number;
  onDone: (answeredMs: number) => void;
}) {
  const awake = useAwake();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const acknowledge = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const { answeredMs } = await ask<{ answeredMs: number }>(
        'POST',
        `/api/for-me/${item.occurrenceId}/acknowledge`,
      );
      onDone(answeredMs);
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  const over = item.deadlineMs !== null && item.deadlineMs < nowMs;
  return (
    <li className="border border-base-300 bg-base-100 p-4">
      <ImportanceWord importance={item.importance} />
      <h3 className="text-xl">
        <a className="link-quiet" href={`/for-me/${item.occurrenceId}`} dir="auto">
          {item.title}
        </a>
      </h3>
      <p className="mt-1 text-quiet" dir="auto">
        {item.excerpt}
      </p>
      {item.answeredMs === null ? (
        <>
          {item.deadlineMs === null ? null : (
            <p className={over ? 'mt-2 text-error' : 'mt-2 text-warning'}>
              {over ? 'Was asked by' : 'Please acknowledge by'} {momentWords(item.deadlineMs, zone, nowMs)}
            </p>
          )}
          {error === undefined ? null : <Notice tone="error">{error}</Notice>}
          <button
            type="button"
            className="btn btn-primary btn-lg mt-3 w-full sm:w-auto"
            disabled={busy || !awake}
            onClick={() => void acknowledge()}
            aria-label={`Acknowledge ${item.title}`}
          >
            Acknowledge
          </button>
        </>
      ) : (
        <p role="status" className="mt-2 font-semibold text-success">
          Acknowledged at {timeWords(item.answeredMs, zone)}. Thank you.
        </p>
      )}
    </li>
  );
}

/** What a member finds first: what still needs an answer, then everything that came, by day. */
export default function ForMe({ first, zone, nowMs }: { first: ForMeData; zone: string; nowMs: number }) {
  const [waiting, setWaiting] = useState(first.unanswered);
  const [items, setItems] = useState(first.items);
  const [next, setNext] = useState(first.next);
  const [error, setError] = useState<string>();

  const done = (occurrenceId: number, answeredMs: number): void => {
    const mark = (item: InboxItem): InboxItem =>
      item.occurrenceId === occurrenceId ? { ...item, answeredMs } : item;
    setWaiting((list) => list.map(mark));
    setItems((list) => list.map(mark));
  };
  const more = async (): Promise<void> => {
    if (!next) return;
    try {
      const page = await ask<ForMeData>('GET', `/api/for-me?wentMs=${next.wentMs}&id=${next.id}`);
      setItems((list) => [...list, ...page.items]);
      setNext(page.next);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const days = new Map<string, InboxItem[]>();
  for (const item of items) {
    const day = dateWords(item.wentMs, zone, nowMs);
    days.set(day, [...(days.get(day) ?? []), item]);
  }
  const open = waiting.filter((item) => item.answeredMs === null).length;

  return (
    <>
      <h1 className="mb-4">For me</h1>
      {waiting.length > 0 ? (
        <section aria-labelledby="waiting" className="mb-8">
          <h2 id="waiting" className="mb-3">
            {open === 0 ? 'All answered' : open === 1 ? 'One needs your answer' : `${open} need your answer`}
          </h2>
          <ul className="flex flex-col gap-4">
            {waiting.map((item) => (
              <Waiting
                key={item.occurrenceId}
                item={item}
                zone={zone}
                nowMs={nowMs}
                onDone={(answeredMs) => done(item.occurrenceId, answeredMs)}
              />
            ))}
          </ul>
        </section>
      ) : null}
      {items.length === 0 ? (
        <p className="text-quiet">
          Nothing has come for you yet. What is sent to you appears here, and stays.
        </p>
      ) : null}
      {[...days].map(([day, list]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">
            {list.map((item) => (
              <li key={item.occurrenceId}>
                <time className="margin" dateTime={new Date(item.wentMs).toISOString()}>
                  {timeWords(item.wentMs, zone)}
                </time>
                <div>
                  <a className="link-quiet font-semibold" href={`/for-me/${item.occurrenceId}`} dir="auto">
                    {item.title}
                  </a>{' '}
                  <ImportanceWord importance={item.importance} />
                  <p className="text-quiet" dir="auto">
                    {item.excerpt}
                  </p>
                </div>
                <div className="state text-sm">
                  {item.asked ? (
                    item.answeredMs === null ? (
                      <span className="text-warning">needs your answer</span>
                    ) : (
                      <span className="text-success">acknowledged</span>
                    )
                  ) : null}
                </div>
              </li>
            ))}
          </ul>
        </section>
      ))}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {next ? (
        <button type="button" className="btn btn-outline" onClick={() => void more()}>
          Show earlier
        </button>
      ) : null}
    </>
  );
}
