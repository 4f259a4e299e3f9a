import { useRef, useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import {
  audienceOf,
  EMPTY_FORM,
  formOf,
  sameTerm,
  type AudienceForm,
  type Term,
} from '../../core/audience/form.ts';
import { audienceWords, type AudienceNames } from '../../core/audience/words.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { people } from '../../core/words.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { FindGroup } from '../../ui/FindGroup.tsx';
import { Notice } from '../../ui/Notice.tsx';
import type { PanelProps } from './draft.ts';
import { type Side, SIDE_WORDS, AddTerm } from '../../ui/AddTerm.tsx';

/** Audiences to begin with: those written to lately, and those kept under a name; and keeps the one that is chosen. */
function Known({
  choices,
  audience,
  onTake,
}: {
  choices: AudienceChoices;
  audience: Audience | null;
  onTake: (audience: Audience) => void;
}) {
  const [saved, setSaved] = useState(choices.saved);
  const [name, setName] = useState('');
  const [error, setError] = useState<string>();
  const save = async (): Promise<void> => {
    setError(undefined);
    try {
      setSaved(await request('POST', '/api/saved-audiences', { name, audience }));
      setName('');
    } catch (problem) {
      setError(problem instanceof ApiProblem ? (problem.about('name') ?? problem.message) : wordsOf(problem));
    }
  };
  const known = [
    ...saved.map((each) => ({
      key: `kept ${each.id}`,
      words: each.name,
      audience: each.audience,
      kept: true,
    })),
    ...choices.recent.map((each) => ({ key: each.words, ...each, kept: false })),
  ];
  return (
    <div className="mt-3 border-t border-base-300 pt-2">
      {known.length > 0 ? (
        <div role="group" aria-label="Audiences to begin with" className="flex flex-wrap items-center gap-2">
          <span className="text-sm text-quiet">Kept or lately used:</span>
          {known.map((each) => (
            <button
              key={each.key}
              type="button"
              className="btn btn-outline btn-sm max-w-full"
              onClick={() => onTake(each.audience)}
            >
              <span className="truncate">{each.words}</span>
              {each.kept ? <span className="text-quiet"> kept</span> : null}
            </button>
          ))}
        </div>
      ) : null}
      {audience ? (
        <form
          className="mt-2 flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void save();
          }}
        >
          <label className="flex min-w-48 grow flex-col gap-1 text-sm">
            Keep this one under a name
            <input
              className="input input-sm w-full"
              maxLength={120}
              value={name}
              aria-invalid={error !== undefined}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <button className="btn btn-outline btn-sm" disabled={name.trim() === ''}>
            Keep it
          </button>
        </form>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </div>
  );
}

/** Who gets it, as phrases one adds and takes out, with the count in sight: groups, and whatever else people can be chosen by. */
export function WhomPanel({
  plan,
  choices,
  audienceNames,
  forecast,
  onChange,
}: PanelProps & { audienceNames: AudienceNames; forecast: Pick<Forecast, 'people' | 'sample'> }) {
  const [spoken, setSpoken] = useState(new Map<string, string>());
  const field = useRef<HTMLInputElement>(null);
  const form = formOf(plan.audience);
  const set = (next: AudienceForm): void => onChange({ ...plan, audience: audienceOf(next) });
  if (!form)
    return (
      <div>
        <p className="mb-3">
          This audience says more than the lists here can:{' '}
          {plan.audience ? audienceWords(plan.audience, audienceNames) : ''}.
        </p>
        <button type="button" className="btn btn-outline" onClick={() => set(EMPTY_FORM)}>
          Begin anew
        </button>
      </div>
    );
  const everyone = form.to.some((term) => term.kind === 'everyone');
  const without = (list: Term[], term: Term): Term[] => list.filter((each) => !sameTerm(each, term));
  const add = (side: Side, term: Term): void => {
    const clean = {
      to: without(form.to, term),
      also: without(form.also, term),
      except: without(form.except, term),
    };
    set({ ...clean, [side]: [...clean[side], term] });
  };
  const chosen = (['to', 'also', 'except'] as const).flatMap((side) =>
    form[side].map((term) => ({ side, term })),
  );
  const boardsOfChosen = choices.boards.filter(
    (board) =>
      board.groupId !== null &&
      board.denied === null &&
      form.to.some((term) => term.kind === 'group' && term.id === board.groupId),
  );
  const words = (term: Term): string =>
    spoken.get(JSON.stringify(term)) ?? audienceWords(term, audienceNames);
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <ul className="flex flex-wrap gap-2" aria-label="Who gets it so far">
          {chosen.map(({ side, term }) => (
            <li
              key={side + JSON.stringify(term)}
              className="flex items-center gap-2 border border-base-300 bg-base-200 pl-3"
            >
              <span>
                <span className="text-quiet">{SIDE_WORDS[side]}</span> {words(term)}
              </span>
              <button
                type="button"
                className="min-h-9 px-3 text-primary"
                aria-label={`Take out: ${words(term)}`}
                onClick={() => {
                  set({ ...form, [side]: without(form[side], term) });
                  field.current?.focus();
                }}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
        <p className="text-sm" aria-live="polite">
          {chosen.length === 0 ? (
            'Nobody yet: add groups below.'
          ) : (
            <>
              <strong className="figure">{people(forecast.people)}</strong>
              {forecast.sample.length > 0
                ? `: ${forecast.sample
                    .slice(0, 3)
                    .map((person) => person.name)
                    .join(', ')}${forecast.people > 3 ? ' …' : ''}`
                : ''}
            </>
          )}
        </p>
      </div>
      <label className="mb-1 flex min-h-9 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={everyone}
          disabled={!choices.audience.anybody && !everyone}
          onChange={(event) => set({ ...form, to: event.target.checked ? [{ kind: 'everyone' }] : [] })}
        />
        Everyone{choices.audience.anybody ? '' : ' (only a coordinator sends to everyone)'}
      </label>
      <FindGroup choices={choices.audience} form={form} field={field} onAdd={add} />
      <Known
        choices={choices.audience}
        audience={plan.audience}
        onTake={(audience) => onChange({ ...plan, audience })}
      />
      <AddTerm
        choices={choices.audience}
        onAdd={(side, term, said) => {
          if (said !== undefined) setSpoken(new Map(spoken).set(JSON.stringify(term), said));
          add(side, term);
        }}
      />
      {boardsOfChosen.length > 0 ? (
        <p className="mt-3 flex flex-wrap items-center gap-3 border-t border-base-300 pt-3 text-sm">
          Instead of to each person:
          <button
            type="button"
            className="btn btn-outline btn-sm"
            onClick={() =>
              onChange({
                ...plan,
                audience: null,
                ask: { kind: 'nothing' },
                boards: [...new Set([...plan.boards, ...boardsOfChosen.map((board) => board.id)])],
              })
            }
          >
            Post only on {boardsOfChosen.length === 1 ? 'the board' : `the ${boardsOfChosen.length} boards`}{' '}
            of the chosen groups
          </button>
        </p>
      ) : null}
    </div>
  );
}
