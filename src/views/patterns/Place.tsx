import { useState } from 'react';
import type { Offer, PlacePage } from '../../core/patterns/page.ts';
import { PATTERN_WORDS } from '../../core/patterns/pattern.ts';
import { list } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Parts } from './Parts.tsx';

/** A place that was made from a pattern: what was made, what the pattern offers it since, and the way back. */
export default function Place({ first, made, zone }: { first: PlacePage; made: boolean; zone: string }) {
  const path = `/api/patterns/places/${first.id}` as const;
  const { data: place = first } = useServer(path, { first });
  const awake = useAwake();
  const [asking, setAsking] = useState(false);
  const { inTheWay, parts, pattern } = place;
  return (
    <>
      <p className="text-sm">
        <a className="link-quiet" href={`/patterns/${pattern.id}`} dir="auto">
          {pattern.name}
        </a>
      </p>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto" dir="auto">
          {place.name}
        </h1>
        {inTheWay.length === 0 ? (
          <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => setAsking(true)}>
            Take it all back
          </button>
        ) : null}
      </div>
      <p className="mb-6 text-sm text-quiet">
        Made from “{pattern.name}” by {place.madeBy}, <Moment at={place.madeMs} zone={zone} />.
      </p>
      {made ? (
        <div className="mb-6">
          <Notice tone="success">
            It is made. Look around; until somebody has used it, it can be taken back whole.
          </Notice>
        </div>
      ) : null}
      <Offers key={pattern.number} place={place} path={path} />
      <section aria-labelledby="made" className="mb-8">
        <h2 id="made" className="mb-2">
          What was made
        </h2>
        <ul className="border-t border-base-300">
          {parts.map(({ key, kind, name, path: to }) => (
            <li
              key={key}
              className="flex min-h-11 flex-wrap items-baseline gap-x-3 border-b border-base-300 py-2"
            >
              {to === null ? (
                <span className="grow text-quiet" dir="auto">
                  {name}
                </span>
              ) : (
                <span className="grow">
                  <a className="link-quiet font-semibold" href={to} dir="auto">
                    {name}
                  </a>
                </span>
              )}
              <span className="text-sm text-quiet">
                {PATTERN_WORDS[kind].one}
                {to === null ? ', not here any more' : ''}
              </span>
            </li>
          ))}
        </ul>
      </section>
      {inTheWay.length === 0 ? null : (
        <section aria-labelledby="used">
          <h2 id="used" className="mb-1">
            It is in use, and stays
          </h2>
          <p className="text-quiet">It could be taken back whole were it not for:</p>
          <ul className="list-disc pl-5">
            {inTheWay.map((words) => (
              <li key={words} dir="auto">
                {words}
              </li>
            ))}
          </ul>
        </section>
      )}
      {asking ? (
        <Confirm
          title={`Take ${place.name} back?`}
          detail={`All that was made with it is deleted: ${list(
            parts.map(({ kind, name }) => `the ${PATTERN_WORDS[kind].one} “${name}”`),
            'and',
          )}. Nobody has used it yet.`}
          button="Take it all back"
          onConfirm={async () => {
            await request('DELETE', path);
            location.assign(`/patterns/${pattern.id}`);
          }}
          onClose={() => setAsking(false)}
        />
      ) : null}
    </>
  );
}

const STATES: Readonly<Record<Offer['state'], string>> = {
  new: 'It is new in the pattern.',
  changed: 'Would change',
  gone: 'It is in the pattern no more; here it stays.',
};

const saysOf = ({ state, says, here }: Offer): string[] => [
  state === 'changed' ? `${STATES.changed} ${list(says, 'and')}.` : STATES[state],
  ...(here.length > 0 ? [`Changed here since, and written over if you take it: ${list(here, 'and')}.`] : []),
];

/** What the pattern says otherwise than when this place took its changes last. */
function Offers({ place, path }: { place: PlacePage; path: `/api/patterns/places/${number}` }) {
  const { offers, pattern } = place;
  const awake = useAwake();
  const further = offers.filter(({ state }) => state !== 'gone');
  // What was changed here is written over only where somebody says so.
  const [chosen, setChosen] = useState<ReadonlySet<string>>(
    new Set(further.filter(({ here }) => here.length === 0).map(({ key }) => key)),
  );
  const { busy, error, act } = useActs(() => refetch(path));
  if (offers.length === 0) return null;
  const take = (keys: string[], words: string): (() => void) =>
    act(async () => {
      await request('POST', `${path}/changes`, { number: pattern.number, parts: keys });
      await refetch(path);
      await done(words);
    });
  const line = (offer: Offer) => ({ ...offer, says: saysOf(offer) });
  const wanted = further.flatMap(({ key }) => (chosen.has(key) ? [key] : []));
  return (
    <section aria-labelledby="offers" className="mb-8">
      <h2 id="offers" className="mb-1">
        The pattern has changed since
      </h2>
      <p className="mb-2 max-w-prose text-quiet">
        Take what fits here. Links, columns and people of this place alone stay; what you do not take is not
        offered again.
      </p>
      <Parts
        label="What the pattern offers"
        parts={further.map(line)}
        chosen={chosen}
        onChoose={(key, on) => {
          const next = new Set(chosen);
          if (on) next.add(key);
          else next.delete(key);
          setChosen(next);
        }}
      />
      {offers.length > further.length ? (
        <Parts
          label="No longer in the pattern"
          parts={offers.filter(({ state }) => state === 'gone').map(line)}
        />
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <div className="mt-3 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn btn-primary"
          disabled={!awake || busy || wanted.length === 0}
          onClick={take(wanted, `Taken from “${pattern.name}”.`)}
        >
          Take what is chosen
        </button>
        <button
          type="button"
          className="btn btn-ghost"
          disabled={!awake || busy}
          onClick={take([], 'Left as it is.')}
        >
          Leave it as it is
        </button>
      </div>
    </section>
  );
}
