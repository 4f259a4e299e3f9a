import { useEffect, useState } from 'react';
import type { ForMe as ForMeData, ForMeEnd, ForMeLine, InboxItem } from '../../core/inbox/inbox.ts';
import { dateWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useLive } from '../../ui/useLive.ts';
import { Told } from './Told.tsx';
import { Welcome } from './Welcome.tsx';
import { Days, ReadWords, useLineKeys, WaitingList } from './parts.tsx';
import { fetchAskBox } from './Waiting.tsx';

/** By then the page has been read, and what is fetched holds up nothing. */
const AT_HAND_MS = 3_000;

/** So that a send to everybody does not bring everybody back in the same instant. */
const SPREAD_MS = 1_500;

const PATH = '/api/for-me';

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

  const allRead = async (): Promise<void> => {
    await request('PUT', `${PATH}/read`);
    setOlder((list) => list.map((line) => ({ ...line, read: true })));
    await refetch(PATH);
    void done('Everything for you is marked as read.');
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
          <ReadWords
            unread={unread}
            more={next !== null}
            only={only}
            onOnly={() => setOnly(!only)}
            onAllRead={() => void act(allRead)}
          />
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
        <WaitingList
          items={waiting}
          open={open}
          zone={zone}
          nowMs={nowMs}
          onDone={(id, answeredMs) => setAnswered((now) => new Map([...now, [id, answeredMs]]))}
        />
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
      <Days days={days} zone={zone} />
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
