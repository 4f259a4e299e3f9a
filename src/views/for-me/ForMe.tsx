import { useEffect, useState } from 'react';
import { doneWords } from '../../core/asks/askWords.ts';
import type { ForMe as ForMeData, ForMeEnd, ForMeLine, InboxItem } from '../../core/inbox/inbox.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useLive } from '../../ui/useLive.ts';
import { Told } from './Told.tsx';
import { Welcome } from './Welcome.tsx';
import { fetchAskBox, Waiting } from './Waiting.tsx';

/** By then the page has been read, and what is fetched holds up nothing. */
const AT_HAND_MS = 3_000;

/** So that a send to everybody does not bring everybody back in the same instant. */
const SPREAD_MS = 1_500;

const PATH = '/api/for-me';

function Line({ line, zone }: { line: ForMeLine; zone: string }) {
  return (
    <li>
      <time className="margin" dateTime={new Date(line.wentMs).toISOString()}>
        {timeWords(line.wentMs, zone)}
        {line.read ? null : <span className="block font-sans text-sm font-semibold text-primary">new</span>}
      </time>
      <div>
        <a
          className={`link-quiet ${line.read ? '' : 'font-semibold'}`}
          data-line
          data-fresh={line.read ? undefined : ''}
          href={line.path}
          dir="auto"
        >
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
        ) : null}
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

/** Gives the focus to the next line below that is not read. */
function toNextUnread(): void {
  const fresh = [...document.querySelectorAll<HTMLElement>('a[data-fresh]')];
  const at = fresh.indexOf(document.activeElement as HTMLElement);
  fresh[at < 0 ? 0 : (at + 1) % fresh.length]?.focus();
}

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
  const { data: page = first, error: failure } = useServer(PATH, {
    first,
    topics: [`person:${me}`],
  });
  const [answered, setAnswered] = useState<ReadonlyMap<number, number>>(new Map());
  const [older, setOlder] = useState<ForMeLine[]>([]);
  const [next, setNext] = useState(first.next);
  const [only, setOnly] = useState(false);
  const [error, setError] = useState<string>();
  useLineKeys();
  useLive(['arrivals'], () => {
    setTimeout(() => void refetch(PATH), Math.random() * SPREAD_MS);
  });
  const boxed = page.unanswered.some((item) => item.asks !== 'acknowledgement' || item.agrees);
  useEffect(() => {
    if (!boxed) return undefined;
    // So that one can vote or check in without a connection too.
    const timer = setTimeout(() => void fetchAskBox().catch(() => undefined), AT_HAND_MS);
    return () => clearTimeout(timer);
  }, [boxed]);
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const more = (): Promise<void> =>
    act(async () => {
      if (!next) return;
      const found = await request('GET', `${PATH}?${query(next)}`);
      setOlder((list) => [...list, ...found.lines]);
      setNext(found.next);
    });

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
  const lines = [...new Map([...older, ...page.lines].map((line) => [line.key, line])).values()];
  const unread = lines.filter((line) => !line.read).length;
  const days = new Map<string, ForMeLine[]>();
  for (const line of lines.filter((each) => !only || !each.read).sort((a, b) => b.wentMs - a.wentMs)) {
    const day = dateWords(line.wentMs, zone, nowMs);
    const answeredMs = line.occurrenceId === null ? null : (answered.get(line.occurrenceId) ?? null);
    days.set(day, [...(days.get(day) ?? []), { ...line, answeredMs: line.answeredMs ?? answeredMs }]);
  }
  const open = waiting.filter((item) => item.answeredMs === null).length;

  return (
    <>
      <div className="mb-3 flex flex-wrap items-baseline gap-x-4">
        <h1>For me</h1>
        {lines.length === 0 ? null : (
          <p className="flex flex-wrap items-baseline gap-x-4 text-sm text-quiet">
            {unread === 0 ? 'All read' : next ? `${unread} of these not read` : `${unread} not read`}
            {unread === 0 && !only ? null : (
              <button
                type="button"
                className="link-quiet py-2"
                aria-pressed={only}
                onClick={() => setOnly(!only)}
              >
                {only ? 'Show the read ones too' : 'Only the unread'}
              </button>
            )}
            {unread === 0 ? null : (
              <>
                <button type="button" className="link-quiet py-2" onClick={toNextUnread}>
                  Next unread
                </button>
                <button
                  type="button"
                  className="link-quiet py-2"
                  onClick={() =>
                    void act(async () => {
                      await request('PUT', `${PATH}/read`);
                      setOlder((list) => list.map((line) => ({ ...line, read: true })));
                      await refetch(PATH);
                      void done('Everything for you is marked as read.');
                    })
                  }
                >
                  Mark all as read
                </button>
              </>
            )}
          </p>
        )}
      </div>
      {page.welcome ? (
        <Welcome
          welcome={page.welcome}
          open={open}
          onDone={() =>
            void act(async () => {
              await request('PUT', `${PATH}/welcomed`);
              await refetch(PATH);
            })
          }
        />
      ) : null}
      {waiting.length > 0 ? (
        <section aria-labelledby="waiting" className="mb-8 border-l-4 border-primary bg-base-100">
          <h2 id="waiting" className="px-3 pt-2 text-base">
            {open === 0 ? 'All answered' : open === 1 ? 'One needs your answer' : `${open} need your answer`}
          </h2>
          <ul>
            {waiting.map((item) => (
              <Waiting
                key={item.occurrenceId}
                item={item}
                onSent={() => void refetch(PATH)}
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
      <Told
        page={page}
        zone={zone}
        nowMs={nowMs}
        onRead={() =>
          void act(async () => {
            await request('PUT', '/api/notices/read', { path: null });
            await refetch(PATH);
          })
        }
      />
      {lines.length === 0 ? (
        <p className="text-quiet">
          Nothing has come for you yet. What is sent to you, and what stands on your boards, appears here.
        </p>
      ) : days.size === 0 ? (
        <p className="text-quiet">Nothing of this is unread.</p>
      ) : null}
      {[...days].map(([day, list]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">
            {list.map((line) => (
              <Line key={line.key} line={line} zone={zone} />
            ))}
          </ul>
        </section>
      ))}
      {error === undefined && !failure ? null : <Notice tone="error">{error ?? wordsOf(failure)}</Notice>}
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
