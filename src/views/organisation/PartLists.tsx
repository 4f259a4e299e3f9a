import { useId, useState } from 'react';
import { PART_KINDS, PART_WORDS, type Part, type PartState } from '../../core/organisation/parts.ts';
import { count, list } from '../../core/words.ts';

const STATES: Readonly<Record<PartState, string>> = {
  new: 'not here yet',
  changed: 'other here',
  clash: 'in the way',
  same: 'as it is here',
};

const sentence = (says: readonly string[]): string => {
  const words = list(says, 'and');
  return `${words.slice(0, 1).toUpperCase()}${words.slice(1)}.`;
};

interface Choices {
  parts: readonly Part[];
  chosen: ReadonlySet<string>;
  beside: ReadonlySet<string>;
  onChoose: (part: Part, on: boolean) => void;
  onBeside: (key: string, on: boolean) => void;
}

/** The parts of an archive by kind, those that differ first; what is the same here is shown where it is asked for. */
export function PartLists({ onAllNew, ...choices }: Choices & { onAllNew: () => void }) {
  const { parts, chosen } = choices;
  const [all, setAll] = useState(false);
  const n = (state: PartState): number => parts.filter((part) => part.state === state).length;
  const fresh = parts.filter((part) => part.state === 'new' && !chosen.has(part.key)).length;
  return (
    <>
      <p className="mt-5 flex flex-wrap items-center gap-x-4 gap-y-2">
        <span>
          {list(
            [
              `${n('new')} not here yet`,
              `${n('changed')} other here`,
              `${n('clash')} in the way`,
              `${n('same')} as here`,
            ],
            'and',
          )}
          .
        </span>
        {fresh > 0 ? (
          <button type="button" className="btn btn-outline btn-sm" onClick={onAllNew}>
            Choose all that are not here
          </button>
        ) : null}
        {n('same') > 0 ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            aria-pressed={all}
            onClick={() => setAll(!all)}
          >
            {all ? 'Hide what is as here' : `Show ${count(n('same'), 'that is', 'that are')} as here`}
          </button>
        ) : null}
      </p>
      {parts.length === n('same') && !all ? (
        <p className="mt-4 border-y border-base-300 py-3 text-quiet">
          Everything in it is here as it is there.
        </p>
      ) : null}
      {PART_KINDS.map((kind) => {
        const shown = parts.filter((part) => part.kind === kind && (all || part.state !== 'same'));
        return shown.length === 0 ? null : (
          <section key={kind} className="mt-6" aria-label={PART_WORDS[kind].many}>
            <h2 className="mb-2 text-lg">{PART_WORDS[kind].many}</h2>
            <ul className="ledger">
              {shown.map((part) => (
                <PartLine key={part.key} part={part} {...choices} />
              ))}
            </ul>
          </section>
        );
      })}
    </>
  );
}

function PartLine({ part, parts, chosen, beside, onChoose, onBeside }: Choices & { part: Part }) {
  const id = useId();
  const { key, name, state, says, why, needs, beside: other } = part;
  const may = state === 'new' || state === 'changed' || (state === 'clash' && other !== null);
  const on = chosen.has(key);
  const withIt = parts.filter((each) => needs.includes(each.key)).map((each) => `“${each.name}”`);
  return (
    <li>
      <span className="margin">
        {may ? (
          <input
            type="checkbox"
            id={id}
            className="checkbox checkbox-primary"
            checked={on}
            aria-describedby={`${id}-more`}
            onChange={(event) => onChoose(part, event.target.checked)}
          />
        ) : (
          <span aria-hidden>–</span>
        )}
      </span>
      <span className="min-w-0">
        {may ? (
          <label htmlFor={id} className="font-semibold" dir="auto">
            {name}
          </label>
        ) : (
          <span className="font-semibold" dir="auto">
            {name}
          </span>
        )}
        <span id={`${id}-more`} className="block text-sm text-quiet">
          {why.length > 0 ? `${why.join(' ')} ` : ''}
          {says.length > 0 && may && why.length === 0 ? `${sentence(says)} ` : ''}
          {withIt.length > 0 ? `With it comes ${list(withIt, 'and')}. ` : ''}
          {state === 'clash' && other !== null ? `It can come in beside, as “${other}”.` : ''}
        </span>
        {on && state === 'changed' && other !== null ? (
          <span className="mt-1 flex items-center gap-2 text-sm">
            <label htmlFor={`${id}-how`}>It comes in</label>
            <select
              id={`${id}-how`}
              className="select select-sm w-auto max-w-full"
              value={beside.has(key) ? 'beside' : 'over'}
              onChange={(event) => onBeside(key, event.target.value === 'beside')}
            >
              <option value="over">over what is here</option>
              <option value="beside">beside it, as “{other}”</option>
            </select>
          </span>
        ) : null}
      </span>
      <span className={`state text-sm ${state === 'clash' ? 'text-warning' : 'text-quiet'}`}>
        {STATES[state]}
      </span>
    </li>
  );
}
