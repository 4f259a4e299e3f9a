import { useState } from 'react';
import { Moment } from '../../ui/Moment.tsx';
import { Awake } from '../../ui/Awake.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

const PATH = '/api/me/sessions';

/** Where one is signed in; each can be ended from here. */
export function Sessions({ zone }: { zone: string }) {
  const { data: sessions = [], error } = useServer(PATH);
  const [problem, setProblem] = useState<unknown>();
  const end = async (path: typeof PATH | `${typeof PATH}/${string}`, words: string): Promise<void> => {
    setProblem(undefined);
    try {
      await request('DELETE', path);
      void done(words);
    } catch (failed) {
      setProblem(failed);
    }
    await refetch(PATH);
  };
  const failed = problem ?? error;
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="sessions">
        <h2 id="sessions" className="mb-2">
          Where you are signed in
        </h2>
        <p className="mb-3 text-quiet">
          End what you do not know or no longer use. It is signed out at its next press, and notices are no
          longer pushed to it.
        </p>
        {failed ? <Notice tone="error">{wordsOf(failed)}</Notice> : null}
        <ul className="border-t border-base-300" aria-label="Sessions">
          {sessions.map((session) => (
            <li
              key={session.id}
              className="flex min-h-11 flex-wrap items-center gap-x-4 border-b border-base-300 py-1"
            >
              <span className="grow">
                {session.browser}
                <span className="block text-sm text-quiet">
                  since <Moment at={session.createdMs} zone={zone} />
                  {session.here ? null : (
                    <>
                      , last used about <Moment at={session.seenMs} zone={zone} />
                    </>
                  )}
                </span>
              </span>
              {session.here ? (
                <span className="text-success">this one</span>
              ) : (
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  aria-label={`End the session of ${session.browser}`}
                  onClick={() => void end(`${PATH}/${session.id}`, `${session.browser} is signed out.`)}
                >
                  End it
                </button>
              )}
            </li>
          ))}
        </ul>
        {sessions.length > 1 ? (
          <button
            type="button"
            className="btn btn-outline mt-3"
            onClick={() => void end(PATH, 'Everything but this browser is signed out.')}
          >
            End all others
          </button>
        ) : null}
      </section>
    </Awake>
  );
}
