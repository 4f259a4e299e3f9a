import { useState } from 'react';
import type { Notice as Told, NoticePage } from '../../core/notices/notice.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';

/** Everything somebody was told, by day. */
export default function Notices({
  first,
  zone,
  nowMs,
  me,
}: {
  first: NoticePage;
  zone: string;
  nowMs: number;
  me: number;
}) {
  const awake = useAwake();
  const [notices, setNotices] = useState(first.notices);
  const [next, setNext] = useState(first.next);
  const [error, setError] = useState<string>();
  const act = async (work: () => Promise<void>): Promise<void> => {
    try {
      await work();
      setError(undefined);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const refresh = (): Promise<void> =>
    act(async () => {
      const page = await request('GET', '/api/notices');
      setNotices((list) => {
        const ids = new Set(page.notices.map((notice) => notice.id));
        return [...page.notices, ...list.filter((notice) => !ids.has(notice.id))];
      });
    });
  useLive([`person:${me}`], () => void refresh());
  const more = (): Promise<void> =>
    act(async () => {
      const page = await request('GET', `/api/notices?before=${next ?? 0}`);
      setNotices((list) => [...list, ...page.notices]);
      setNext(page.next);
    });
  const readAll = (): Promise<void> =>
    act(async () => {
      await request('PUT', '/api/notices/read', { path: null });
      setNotices((list) => list.map((notice) => ({ ...notice, read: true })));
    });
  const days = new Map<string, Told[]>();
  for (const notice of notices) {
    const day = dateWords(notice.atMs, zone, nowMs);
    days.set(day, [...(days.get(day) ?? []), notice]);
  }
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">What I was told</h1>
        <a className="btn btn-ghost" href="/settings#notices">
          What I am told of
        </a>
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => void readAll()}>
          Mark all as read
        </button>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {notices.length === 0 ? (
        <p className="text-quiet">
          Nothing yet. When somebody calls on you by name, replies to you or thanks you, it is said here.
        </p>
      ) : null}
      {[...days].map(([day, list]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">
            {list.map((notice) => (
              <li key={notice.id}>
                <time className="margin" dateTime={new Date(notice.atMs).toISOString()}>
                  {timeWords(notice.atMs, zone)}
                </time>
                <div>
                  <a
                    className={`link-quiet ${notice.read ? '' : 'font-semibold'}`}
                    href={notice.path}
                    dir="auto"
                  >
                    {notice.title}
                  </a>
                  <p className="text-quiet" dir="auto">
                    {notice.text}
                  </p>
                  <p className="text-sm text-quiet">{notice.why}</p>
                </div>
                <div className="state text-sm text-quiet">{notice.read ? '' : 'not read'}</div>
              </li>
            ))}
          </ul>
        </section>
      ))}
      {next === null ? null : (
        <button type="button" className="btn btn-outline" onClick={() => void more()}>
          Show earlier
        </button>
      )}
    </>
  );
}
