import { useState } from 'react';
import { BUNDLINGS, BUNDLING_WORDS, type Bundling } from '../../core/bundling/bundling.ts';
import { Awake } from '../../ui/Awake.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { useServer, refetch } from '../../ui/server.ts';

const PATH = '/api/me/bundling';

export interface BundlingChosen {
  own: Bundling | null;
  /** What holds without a choice of their own. */
  otherwise: Bundling;
  ofAll: Bundling;
}

/** When routine mail and push messages come to somebody; for whoever looks after the organisation also when to everybody. */
export function BundlingSettings({ first, mayForAll }: { first: BundlingChosen; mayForAll: boolean }) {
  const { data: chosen = first } = useServer(PATH, { first });
  const [error, setError] = useState<string>();
  const put = async (
    path: '/api/me/bundling' | '/api/organisation-settings/bundling',
    bundling: Bundling | null,
    words: string,
  ): Promise<void> => {
    setError(undefined);
    try {
      await request('PUT', path, { bundling });
      await refetch(PATH);
      void done(words);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const bundlingIn = (value: string): Bundling | null => BUNDLINGS.find((each) => each === value) ?? null;
  return (
    <Awake>
      <section id="bundling" className="mb-10 max-w-2xl" aria-labelledby="bundling-heading">
        <h2 id="bundling-heading" className="mb-2">
          Several in one
        </h2>
        <p className="mb-3 text-quiet">
          Routine announcements can come to you together: one mail and one push message with all of them, at
          hours of your own day. In For me each stands at once. What is important or urgent, a chase, and what
          must be answered or begins within three hours never waits.
        </p>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        <label className="flex max-w-md flex-col gap-1">
          Routine announcements come to me
          <select
            className="select w-full"
            value={chosen.own ?? ''}
            onChange={(event) =>
              void put('/api/me/bundling', bundlingIn(event.target.value), 'When they come to you is saved.')
            }
          >
            <option value="">unless I choose: {BUNDLING_WORDS[chosen.otherwise]}</option>
            {BUNDLINGS.map((bundling) => (
              <option key={bundling} value={bundling}>
                {BUNDLING_WORDS[bundling]}
              </option>
            ))}
          </select>
        </label>
        {mayForAll ? (
          <label className="mt-4 flex max-w-md flex-col gap-1">
            To everybody who has not chosen, and whose groups have not
            <select
              className="select w-full"
              value={chosen.ofAll}
              onChange={(event) =>
                void put(
                  '/api/organisation-settings/bundling',
                  bundlingIn(event.target.value),
                  'When they come to everybody is saved.',
                )
              }
            >
              {BUNDLINGS.map((bundling) => (
                <option key={bundling} value={bundling}>
                  {BUNDLING_WORDS[bundling]}
                </option>
              ))}
            </select>
          </label>
        ) : null}
      </section>
    </Awake>
  );
}
