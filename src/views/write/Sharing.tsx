import { useEffect, useState } from 'react';
import type { AtDesk } from '../../core/desk/sharing.ts';
import { list } from '../../core/words.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';

const EVERY_MS = 25_000;

/** Who else has the draft open just now; says meanwhile that this page has. */
export function AlsoOpen({ draftId }: { draftId: number }) {
  const path = `/api/announcements/${draftId}/open` as const;
  const [others, setOthers] = useState<string[]>([]);
  useEffect(() => {
    const say = (): void => {
      if (document.visibilityState !== 'visible') return;
      request('POST', path).then(
        (found) => setOthers(found.others),
        // It is said again soon; what is known meanwhile stays.
        () => undefined,
      );
    };
    const leave = (): void => void fetch(path, { method: 'DELETE', keepalive: true });
    say();
    const timer = setInterval(say, EVERY_MS);
    document.addEventListener('visibilitychange', say);
    window.addEventListener('pagehide', leave);
    return () => {
      clearInterval(timer);
      document.removeEventListener('visibilitychange', say);
      window.removeEventListener('pagehide', leave);
    };
  }, [path]);
  return (
    <p role="status" className="text-sm text-warning">
      {others.length === 0
        ? ''
        : `${list(others, 'and')} ${others.length === 1 ? 'has' : 'have'} it open too.`}
    </p>
  );
}

/** With whom the draft is shared for comments before anybody reviews it. */
export function SharedWith({
  draftId,
  flush,
}: {
  draftId: number;
  /** Saves what is not saved yet, so that whoever is told reads what was written. */
  flush: () => Promise<number | null>;
}) {
  const path = `/api/announcements/${draftId}/sharing` as const;
  const sharing = useServer(path);
  const [set, setSet] = useState<AtDesk[]>();
  const [error, setError] = useState<string>();
  const readers = set ?? sharing.data ?? [];
  const put = async (personId: number, shared: boolean): Promise<void> => {
    setError(undefined);
    try {
      await flush();
      setSet(await request('PUT', path, { personId, shared }));
    } catch (problem) {
      setError(
        problem instanceof ApiProblem
          ? [problem.message, problem.errors[0]?.detail ?? ''].join(' ').trim()
          : wordsOf(problem),
      );
    }
  };
  return (
    <details>
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">
        Shared for comments{' '}
        <span className="font-normal text-quiet">
          {readers.length === 0
            ? 'with nobody yet'
            : list(
                readers.map((reader) => reader.name),
                'and',
              )}
        </span>
      </summary>
      <p className="text-sm text-quiet">
        Whoever you share it with is told, and can read it and comment on it before it is reviewed.
      </p>
      <ul>
        {readers.map((reader) => (
          <li
            key={reader.id}
            className="flex min-h-11 items-center justify-between gap-3 border-t border-base-300"
          >
            <span dir="auto">{reader.name}</span>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`No longer share it with ${reader.name}`}
              onClick={() => void put(reader.id, false)}
            >
              No longer
            </button>
          </li>
        ))}
      </ul>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <NameSearch label="Share it with" onChoose={(found) => void put(found.id, true)} />
    </details>
  );
}
