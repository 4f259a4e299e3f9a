import { useEffect, useState } from 'react';
import { doneWords, type AskKind } from '../../core/asks/askWords.ts';
import type { ForMe as ForMeData, ForMeEnd, ForMeLine, InboxItem } from '../../core/inbox/inbox.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { ask, wordsOf } from '../../ui/api.ts';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { sendOrKeep, useKeptRequests } from '../../ui/keptRequests.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';

const fetchAskBox = () => import('../../ui/ask/AskBox.tsx').then((module) => module.default);
const AskBox = lazily(fetchAskBox);
/** By then the page has been read, and what is fetched holds up nothing. */
const AT_HAND_MS = 3_000;

const LOOKED_AFTER_MS = 2_000;
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

/** So that a send to everybody does not bring everybody back in the same instant. */
const SPREAD_MS = 1_500;

function Waiting({
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
  const answer = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const done = await sendOrKeep<{ answeredMs: number }>(
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
  const kept = useKeptRequests(`ask:${item.occurrenceId}`, onSent, setError).length > 0;
  const [open, setOpen] = useState(false);
  const oneTap = item.asks === 'acknowledgement' && !item.agrees;
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
      {item.answeredMs !== null ? (
        <p role="status" className="mt-2 font-semibold text-success">
          {DONE[item.asks]} at {timeWords(item.answeredMs, zone)}. Thank you.
        </p>
      ) : kept ? (
        <p role="status" className="mt-2 font-semibold text-warning">
          Your answer is kept on this device. It is sent when the connection is back, or you have signed in
          again.
        </p>
      ) : (
        <>
          {item.deadlineMs === null ? null : (
            <p className={over ? 'mt-2 text-error' : 'mt-2 text-warning'}>
              {over ? 'Was asked by' : PLEASE[item.asks]}{' '}
              <Moment at={item.deadlineMs} zone={zone} nowMs={nowMs} />
            </p>
          )}
          {error === undefined ? null : <Notice tone="error">{error}</Notice>}
          {oneTap ? (
            <button
              type="button"
              className="btn btn-primary btn-lg mt-3 w-full sm:w-auto"
              disabled={busy || !awake}
              onClick={() => void answer()}
              aria-label={`Acknowledge ${item.title}`}
            >
              Acknowledge
            </button>
          ) : open ? (
            <AskBox occurrenceId={item.occurrenceId} first={null} zone={zone} nowMs={nowMs} />
          ) : (
            <button
              type="button"
              className="btn btn-primary btn-lg mt-3 w-full sm:w-auto"
              disabled={!awake}
              onClick={() => setOpen(true)}
              aria-label={`${DEED[item.asks]}: ${item.title}`}
            >
              {DEED[item.asks]}
            </button>
          )}
        </>
      )}
    </li>
  );
}

function Line({ line, fresh, zone }: { line: ForMeLine; fresh: boolean; zone: string }) {
  return (
    <li>
      <time className="margin" dateTime={new Date(line.wentMs).toISOString()}>
        {timeWords(line.wentMs, zone)}
        {fresh ? <span className="block font-sans text-sm font-semibold text-primary">new</span> : null}
      </time>
      <div>
        <a className={`link-quiet ${line.read ? '' : 'font-semibold'}`} data-line href={line.path} dir="auto">
          {line.title}
        </a>{' '}
        <ImportanceWord importance={line.importance} />
        <p className="text-quiet" dir="auto">
          {line.excerpt}
        </p>
      </div>
      <div className="state text-sm text-quiet">
        {line.board === null ? null : <span className="block">{line.board}</span>}
        {line.asked ? (
          line.answeredMs === null ? (
            <span className="text-warning">needs your answer</span>
          ) : (
            <span className="text-success">
              {line.asks === 'nothing' ? 'answered' : doneWords(line.asks)}
            </span>
          )
        ) : line.read ? null : (
          'not read'
        )}
      </div>
    </li>
  );
}

/** Arrow keys, or j and k, go from line to line. */
function useLineKeys(): void {
  useEffect(() => {
    const step = (event: KeyboardEvent): void => {
      const by = { j: 1, k: -1 }[event.key];
      const target = event.target as HTMLElement;
      if (
        !by ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)
      )
        return;
      const lines = [...document.querySelectorAll<HTMLAnchorElement>('a[data-line]')];
      const at = lines.indexOf(document.activeElement as HTMLAnchorElement);
      lines[at < 0 ? 0 : Math.max(0, Math.min(lines.length - 1, at + by))]?.focus();
    };
    document.addEventListener('keydown', step);
    return () => document.removeEventListener('keydown', step);
  }, []);
}

const query = ({ inbox, posts }: ForMeEnd): string =>
  [
    inbox ? `inboxMs=${inbox.ms}&inboxId=${inbox.id}` : '',
    posts ? `postsMs=${posts.ms}&postsId=${posts.id}` : '',
  ]
    .filter(Boolean)
    .join('&');

/** What a member finds first: what still needs an answer, what they were told, then everything that came, by day. */
export default function ForMe({
  first,
  zone,
  nowMs,
  me,
}: {
  first: ForMeData;
  zone: string;
  nowMs: number;
  me: number;
}) {
  const [page, setPage] = useState(first);
  const [answered, setAnswered] = useState<ReadonlyMap<number, number>>(new Map());
  const [older, setOlder] = useState<ForMeLine[]>([]);
  const [next, setNext] = useState(first.next);
  const [error, setError] = useState<string>();
  // What was new when the reader came stays marked while they are here.
  const looked = first.lookedMs;
  useLineKeys();

  const refresh = async (): Promise<void> => {
    try {
      setPage(await ask<ForMeData>('GET', '/api/for-me'));
      setError(undefined);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  useLive([`person:${me}`], () => void refresh());
  useLive(['arrivals'], () => {
    setTimeout(() => void refresh(), Math.random() * SPREAD_MS);
  });
  useEffect(() => {
    const timer = setTimeout(() => {
      if (!document.hidden) ask('POST', '/api/for-me/looked').catch(() => undefined);
    }, LOOKED_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);
  const boxed = page.unanswered.some((item) => item.asks !== 'acknowledgement' || item.agrees);
  useEffect(() => {
    if (!boxed) return undefined;
    // So that one can vote or check in without a connection too.
    const timer = setTimeout(() => void fetchAskBox().catch(() => undefined), AT_HAND_MS);
    return () => clearTimeout(timer);
  }, [boxed]);
  const more = async (): Promise<void> => {
    if (!next) return;
    try {
      const found = await ask<ForMeData>('GET', `/api/for-me?${query(next)}`);
      setOlder((list) => [...list, ...found.lines]);
      setNext(found.next);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const readAll = async (): Promise<void> => {
    try {
      await ask('PUT', '/api/notices/read', { path: null });
      await refresh();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };

  const withAnswer = (item: InboxItem): InboxItem => ({
    ...item,
    answeredMs: item.answeredMs ?? answered.get(item.occurrenceId) ?? null,
  });
  // What was answered just now stays where it was, with a thank-you, until the page is opened again.
  const waiting = [
    ...page.unanswered,
    ...first.unanswered.filter(
      (item) =>
        answered.has(item.occurrenceId) &&
        !page.unanswered.some((each) => each.occurrenceId === item.occurrenceId),
    ),
  ].map(withAnswer);
  const lines = new Map([...older, ...page.lines].map((line) => [line.key, line]));
  const days = new Map<string, ForMeLine[]>();
  for (const line of [...lines.values()].sort((a, b) => b.wentMs - a.wentMs)) {
    const day = dateWords(line.wentMs, zone, nowMs);
    const answeredMs = line.occurrenceId === null ? null : (answered.get(line.occurrenceId) ?? null);
    days.set(day, [...(days.get(day) ?? []), { ...line, answeredMs: line.answeredMs ?? answeredMs }]);
  }
  const isFresh = (line: ForMeLine): boolean => looked !== null && line.wentMs > looked;
  const fresh = page.lines.filter(isFresh).length;
  const open = waiting.filter((item) => item.answeredMs === null).length;

  return (
    <>
      <div className="mb-4 flex flex-wrap items-baseline gap-x-4">
        <h1>For me</h1>
        {looked === null ? null : (
          <p className="text-quiet">
            {fresh === 0 ? 'Nothing new' : fresh === page.lines.length ? 'Much is new' : `${fresh} new`} since
            you looked at <Moment at={looked} zone={zone} nowMs={nowMs} />.
          </p>
        )}
      </div>
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
                onSent={() => void refresh()}
                zone={zone}
                nowMs={nowMs}
                onDone={(answeredMs) =>
                  setAnswered((now) => new Map([...now, [item.occurrenceId, answeredMs]]))
                }
              />
            ))}
          </ul>
        </section>
      ) : null}
      {page.notices.length > 0 ? (
        <section aria-labelledby="told" className="mb-8 border-l-4 border-info bg-base-100 px-4 py-3">
          <h2 id="told" className="mb-1">
            Told to you
          </h2>
          <ul>
            {page.notices.map((notice) => (
              <li key={notice.id} className="border-b border-base-300 py-2 last:border-0">
                <a className="link-quiet font-semibold" href={notice.path} dir="auto">
                  {notice.title}
                </a>
                <p className="text-quiet" dir="auto">
                  {notice.text}
                </p>
                <p className="text-sm text-quiet">
                  <Moment at={notice.atMs} zone={zone} nowMs={nowMs} />. {notice.why}
                </p>
              </li>
            ))}
          </ul>
          <p className="mt-1 flex flex-wrap gap-4 text-sm">
            <a className="link-quiet py-2" href="/for-me/notices">
              {page.unreadNotices > page.notices.length
                ? `All ${page.unreadNotices >= 100 ? '100 or more' : page.unreadNotices}, and earlier ones`
                : 'Earlier ones'}
            </a>
            <button type="button" className="link-quiet py-2" onClick={() => void readAll()}>
              Mark all as read
            </button>
            <a className="link-quiet py-2" href="/settings#notices">
              What I am told of
            </a>
          </p>
        </section>
      ) : null}
      {lines.size === 0 ? (
        <p className="text-quiet">
          Nothing has come for you yet. What is sent to you, and what stands on your boards, appears here.
        </p>
      ) : null}
      {[...days].map(([day, list]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">
            {list.map((line) => (
              <Line key={line.key} line={line} fresh={isFresh(line)} zone={zone} />
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
      {page.notices.length === 0 ? (
        <p className="mt-8 text-sm text-quiet">
          <a className="link-quiet" href="/for-me/notices">
            What I was told
          </a>{' '}
          ·{' '}
          <a className="link-quiet" href="/settings#notices">
            What I am told of, and how
          </a>
        </p>
      ) : null}
    </>
  );
}
