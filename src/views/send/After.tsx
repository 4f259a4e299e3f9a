import { useState } from 'react';
import type { CurvePoint, Figures } from '../../core/sends/after.ts';
import { dateWords, momentWords, spanWords } from '../../core/timing/words.ts';
import { REACTION_WORDS } from '../../core/boards/reaction.ts';
import { count } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { lazily } from '../../ui/lazily.tsx';
import { ReactionMark } from '../../ui/ReactionMark.tsx';
import { pathWith, useServer } from '../../ui/server.ts';

// The chart's script is large and only this part of this page needs it.
const Curve = lazily(
  () => import('./Curve.tsx').then((module) => module.default),
  () => <div className="h-64" />,
);

/** A figure, with the share of the whole that it is. */
const part = (n: number, of: number): string =>
  `${n.toLocaleString('en-GB')}${of === 0 || n === 0 ? '' : ` (${Math.round((100 * n) / of)} %)`}`;

const ROWS: { words: string; value: (figures: Figures) => string; only?: (figures: Figures) => boolean }[] = [
  {
    words: 'Reached in the inbox',
    value: (f) => f.reached.toLocaleString('en-GB'),
    only: (f) => f.reached > 0 || f.onBoards === 0,
  },
  {
    words: 'Opened',
    value: (f) => part(f.read, f.reached),
    only: (f) => f.reached > 0 || f.onBoards === 0,
  },
  {
    words: 'Can read it on its boards',
    value: (f) => (f.onBoards === 0 ? '' : f.onBoards.toLocaleString('en-GB')),
    only: (f) => f.onBoards > 0,
  },
  {
    words: 'Had it on the screen there',
    value: (f) => part(f.readOnBoards, f.onBoards),
    only: (f) => f.onBoards > 0,
  },
  {
    words: 'Linked contacts who did, by their links',
    value: (f) => f.contactsOnBoards.toLocaleString('en-GB'),
    only: (f) => f.contactsOnBoards > 0,
  },
  {
    words: 'Answered',
    value: (f) => (f.asked === 0 ? 'not asked' : part(f.answered, f.asked)),
  },
  { words: 'Mail that failed', value: (f) => f.failed.toLocaleString('en-GB') },
  {
    words: 'Latest after it was due',
    value: (f) => (f.worstLateMs === null ? '' : spanWords(f.worstLateMs)),
  },
];

/** The points of a curve that a table shows: the ends, and a few between. */
function somePoints(curve: CurvePoint[]): CurvePoint[] {
  const step = Math.max(1, Math.ceil(curve.length / 6));
  return curve.filter((_, i) => i % step === 0 || i === curve.length - 1);
}

/** Makes a board for those who signed up, or leads to the one there is. */
function SessionBoard({ occurrenceId }: { occurrenceId: number }) {
  const [error, setError] = useState<string>();
  const make = async (): Promise<void> => {
    try {
      const { id } = await request('POST', `/api/sends/${occurrenceId}/board`);
      location.assign(`/boards/${id}`);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  return (
    <>
      {error === undefined ? null : <span className="text-error">{error}</span>}
      <button type="button" className="btn btn-outline btn-sm" onClick={() => void make()}>
        A board for those who come
      </button>
    </>
  );
}

/** What became of it over time, as a curve and as a table. */
function OverTime({ curve, asks }: { curve: CurvePoint[]; asks: boolean }) {
  return (
    <>
      <Curve curve={curve} asks={asks} />
      <details>
        <summary className="min-h-9 cursor-pointer text-sm link-quiet">The same as a table</summary>
        <table className="w-full text-right">
          <thead className="text-sm text-quiet">
            <tr>
              <th scope="col" className="text-left font-normal">
                After
              </th>
              <th scope="col" className="font-normal">
                delivered
              </th>
              <th scope="col" className="font-normal">
                read
              </th>
              <th scope="col" className="font-normal">
                answered
              </th>
            </tr>
          </thead>
          <tbody>
            {somePoints(curve).map((point) => (
              <tr key={point.minutes} className="border-t border-base-300">
                <th scope="row" className="text-left font-normal">
                  {spanWords(point.minutes * 60_000)}
                </th>
                <td className="figure">{point.delivered}</td>
                <td className="figure">{point.read}</td>
                <td className="figure">{point.answered}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </>
  );
}

/** What became of a send: its figures beside the issue before, its curve, and who signed up through whom. */
export function After({ occurrenceId, stamp, zone }: { occurrenceId: number; stamp: number; zone: string }) {
  const { data: found } = useServer(pathWith(`/api/sends/${occurrenceId}/after`, { stamp }), {
    keepPrevious: true,
  });
  if (!found) return <p className="text-quiet">Counting what became of it …</p>;
  const { figures, before, curve, forgotten, takesSignUps, signUps, reactions, replies } = found;
  const forgottenMs = forgotten.deliveriesMs ?? forgotten.answersMs;
  return (
    <>
      <section className="my-6" aria-labelledby="figures">
        <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
          <h2 id="figures">What became of it</h2>
          <a className="btn btn-outline btn-sm" href={`/api/sends/${occurrenceId}/deliveries.csv`} download>
            Every delivery as CSV
          </a>
        </div>
        <div className="overflow-x-auto">
          <table className="w-full max-w-3xl">
            <thead className="text-left text-sm text-quiet">
              <tr>
                <th scope="col" className="py-1 pr-4 font-normal">
                  <span className="sr-only">Figure</span>
                </th>
                <th scope="col" className="py-1 pr-4 text-right font-normal">
                  this one
                </th>
                {before ? (
                  <th scope="col" className="py-1 text-right font-normal">
                    <a className="link-quiet" href={`/sends/${before.occurrenceId}`}>
                      the issue before
                    </a>
                    , at the same age
                  </th>
                ) : null}
              </tr>
            </thead>
            <tbody>
              {ROWS.filter((row) => row.only?.(figures) ?? true).map((row) => (
                <tr key={row.words} className="border-t border-base-300">
                  <th scope="row" className="py-2 pr-4 text-left font-normal">
                    {row.words}
                  </th>
                  <td className="figure py-2 pr-4 text-right">{row.value(figures)}</td>
                  {before ? <td className="figure py-2 text-right text-quiet">{row.value(before)}</td> : null}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {before ? (
          <p className="mt-1 text-sm text-quiet" dir="auto">
            {before.title}, {dateWords(before.dueMs, zone)}
          </p>
        ) : null}
      </section>
      {reactions.length > 0 || replies > 0 ? (
        <section className="my-6 max-w-3xl" aria-labelledby="reactions">
          <h2 id="reactions" className="mb-2">
            What was said to it
          </h2>
          <ul className="flex flex-wrap gap-x-6 gap-y-2">
            {reactions.map(({ kind, n }) => (
              <li key={kind} className="flex items-center gap-2">
                <ReactionMark kind={kind} />
                {REACTION_WORDS[kind]} <span className="figure">{n}</span>
              </li>
            ))}
            {replies > 0 ? <li>{count(replies, 'reply', 'replies')} on boards</li> : null}
          </ul>
        </section>
      ) : null}
      <section className="my-6 max-w-3xl" aria-labelledby="curve">
        <h2 id="curve" className="mb-2">
          Over time
        </h2>
        {forgottenMs === null ? null : (
          <p className="mb-2 border-l-4 border-info pl-3">
            Who {forgotten.deliveriesMs === null ? 'answered' : 'got it'} was forgotten on{' '}
            {momentWords(forgottenMs, zone)}, and with it when. The figures above are kept.
          </p>
        )}
        {forgotten.deliveriesMs === null ? <OverTime curve={curve} asks={figures.asked > 0} /> : null}
      </section>
      {takesSignUps || signUps.length > 0 ? (
        <section className="my-6 max-w-3xl" aria-labelledby="sign-ups">
          <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
            <h2 id="sign-ups">{signUps.reduce((sum, row) => sum + row.n, 0)} signed up, by whose link</h2>
            <span className="flex flex-wrap gap-3">
              <SessionBoard occurrenceId={occurrenceId} />
              <a className="btn btn-outline btn-sm" href={`/api/sends/${occurrenceId}/sign-ups.csv`} download>
                As CSV
              </a>
            </span>
          </div>
          <ul>
            {signUps.map((row) => (
              <li key={row.sharedBy} className="flex justify-between border-t border-base-300 py-2">
                <span dir="auto">{row.sharedBy}</span>
                <span className="figure">{row.n}</span>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
    </>
  );
}
