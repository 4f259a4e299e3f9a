import { useState } from 'react';
import {
  choicesOf,
  isShorter,
  KEPT,
  keptWords,
  WAIT_HOURS,
  type Foreseen,
  type Kept,
} from '../../core/retention/kinds.ts';
import { dateWords, momentWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { pathWith, refetch, useServer } from '../../ui/server.ts';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';

const GOOD = 'good';
const PATH = '/api/retention';

/** What a choice would let go of, as it is asked whether it is meant. */
function foreseenWords({ kind, days, n, of, oldestMs }: Foreseen, zone: string, nowMs: number): string {
  const { one, many, since } = KEPT[kind];
  const whole = count(of, one, many);
  const old =
    n === 0 || oldestMs === null
      ? `Nothing of it is as old as that yet (there ${of === 1 ? 'is' : 'are'} ${whole}).`
      : `${n.toLocaleString('en-GB')} of ${whole} ${n === 1 ? 'is' : 'are'} older, the oldest of ${dateWords(oldestMs, zone, nowMs)}.`;
  return `${old} In ${WAIT_HOURS} hours what is older begins to be forgotten, and from then on each ${one} is, ${keptWords(days)} ${since}. Until then you can take this back; after that nobody can.`;
}

function Line({ kept, zone, nowMs }: { kept: Kept; zone: string; nowMs: number }) {
  const [foreseen, setForeseen] = useState<Foreseen>();
  const { busy, error, act } = useActs();
  const awake = useAwake();
  const { kind, days, daysNow, fromMs } = kept;
  const { title, goes, stays } = KEPT[kind];
  const choose = async (chosen: number | null): Promise<void> => {
    await request('PUT', PATH, { kind, days: chosen });
    await refetch(PATH);
  };
  const chosen = (to: number | null) =>
    act(async () => {
      if (isShorter(to, daysNow))
        setForeseen(await request('GET', pathWith(`${PATH}/foreseen`, { kind, days: to })));
      else {
        await choose(to);
        void done(`“${title}” is kept ${to === null ? '' : 'for '}${keptWords(to)}.`);
      }
    });
  return (
    <li className="grid gap-x-8 gap-y-3 border-t border-base-300 py-5 md:grid-cols-[1fr_15rem]">
      <div className="max-w-2xl">
        <h2 id={`kept-${kind}`} className="text-lg">
          {title}
        </h2>
        <p>
          <span className="font-semibold">Forgotten:</span> {goes}
        </p>
        <p className="text-quiet">
          <span className="font-semibold">Stays:</span> {stays}
        </p>
        {kept.changedMs === null ? null : (
          <p className="mt-1 text-sm text-quiet">
            Chosen by {kept.changedBy ?? 'somebody who is gone'}, {momentWords(kept.changedMs, zone, nowMs)}.
          </p>
        )}
      </div>
      <div>
        <label className="block">
          <span className="mb-1 block text-sm text-quiet">Kept</span>
          <select
            className="select w-full"
            aria-describedby={`kept-${kind}`}
            disabled={!awake}
            value={days ?? GOOD}
            onChange={(event) => {
              const { value } = event.target;
              chosen(value === GOOD ? null : Number(value))();
            }}
          >
            {choicesOf(kind).map((each) => (
              <option key={each ?? GOOD} value={each ?? GOOD}>
                {each === null ? keptWords(each) : `for ${keptWords(each)}`}
              </option>
            ))}
          </select>
        </label>
        {fromMs === null ? null : (
          <p className="mt-2 text-sm text-warning">
            From {momentWords(fromMs, zone, nowMs)}; until then it is kept {daysNow === null ? '' : 'for '}
            {keptWords(daysNow)}.{' '}
            <button type="button" className="link-quiet" disabled={busy} onClick={chosen(daysNow)}>
              Take it back
            </button>
          </p>
        )}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
      {foreseen ? (
        <Confirm
          title={`Keep “${title}” for ${keptWords(foreseen.days)}?`}
          detail={foreseenWords(foreseen, zone, nowMs)}
          button={`Keep it for ${keptWords(foreseen.days)}`}
          onConfirm={() => choose(foreseen.days)}
          onClose={() => setForeseen(undefined)}
        />
      ) : null}
    </li>
  );
}

/** How long each kind of what was sent, said and done is kept, with what goes and what stays, and a choice for each. */
export function Retention({ first, zone, nowMs }: { first: Kept[]; zone: string; nowMs: number }) {
  const all = useServer(PATH, { first }).data ?? first;
  return (
    <>
      <h1>How long things are kept</h1>
      <p className="mt-2 mb-6 max-w-2xl text-quiet">
        What is older than you choose is forgotten by itself, a little at a time; what was counted stays
        counted. One person is forgotten from their own page. Backups, and archives that were taken out, keep
        what was in them.
      </p>
      <ul>
        {all.map((kept) => (
          <Line key={kept.kind} kept={kept} zone={zone} nowMs={nowMs} />
        ))}
      </ul>
    </>
  );
}
