import { useState } from 'react';
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
import type { Plan } from '../../core/plan/plan.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import type { PanelProps } from './draft.ts';
import { type Side, SIDE_WORDS, AddTerm } from '../../ui/AddTerm.tsx';

/** Keeps the audience under a name, and takes up one that is kept. */
function Saved({
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
      setSaved(await ask('POST', '/api/saved-audiences', { name, audience }));
      setName('');
    } catch (problem) {
      setError(problem instanceof ApiProblem ? (problem.about('name') ?? problem.message) : wordsOf(problem));
    }
  };
  return (
    <div className="mt-3 flex flex-wrap items-end gap-2 border-t border-base-300 pt-3">
      <label className="flex min-w-56 flex-col gap-1 text-sm">
        Take a kept audience
        <select
          className="select w-full"
          value=""
          onChange={(event) => {
            const found = saved.find((each) => String(each.id) === event.target.value);
            if (found) onTake(found.audience);
          }}
        >
          <option value="">{saved.length === 0 ? 'None is kept yet' : 'Choose …'}</option>
          {saved.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
      </label>
      {audience ? (
        <>
          <label className="flex min-w-48 grow flex-col gap-1 text-sm">
            Or keep this one under a name
            <input
              className="input w-full"
              maxLength={120}
              value={name}
              aria-invalid={error !== undefined}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <button
            type="button"
            className="btn btn-outline"
            disabled={name.trim() === ''}
            onClick={() => void save()}
          >
            Keep it
          </button>
        </>
      ) : null}
      {error === undefined ? null : (
        <div className="w-full">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
    </div>
  );
}

/** Groups in and out, and whatever else people can be chosen by. The sentence below follows. */
export function WhomPanel({
  plan,
  choices,
  audienceNames,
  onChange,
}: PanelProps & { audienceNames: AudienceNames }) {
  const [filter, setFilter] = useState('');
  const [spoken, setSpoken] = useState(new Map<string, string>());
  const form = formOf(plan.audience);
  const named = (list: readonly Term[], id: number): boolean =>
    list.some((term) => term.kind === 'group' && term.id === id);
  // What is chosen already stands first; the order then stays, so that nothing moves under the pointer.
  const [ordered] = useState(() => {
    const first = (id: number): boolean => !!form && (named(form.to, id) || named(form.except, id));
    return [
      ...choices.audience.groups.filter((group) => first(group.id)),
      ...choices.audience.groups.filter((group) => !first(group.id)),
    ];
  });
  const set = (next: AudienceForm, part: Partial<Plan> = {}): void =>
    onChange({ ...plan, ...part, audience: audienceOf(next) });
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
  const place = (id: number, side: 'in' | 'out' | 'neither'): void => {
    const term: Term = { kind: 'group', id };
    const clean = { to: without(form.to, term), also: form.also, except: without(form.except, term) };
    set(
      side === 'in'
        ? { ...clean, to: [...clean.to, term] }
        : side === 'out'
          ? { ...clean, except: [...clean.except, term] }
          : clean,
    );
  };
  const shown = ordered.filter((group) => group.name.toLowerCase().includes(filter.trim().toLowerCase()));
  const others = (['to', 'also', 'except'] as const).flatMap((side) =>
    form[side]
      .filter((term) => term.kind !== 'everyone' && (term.kind !== 'group' || side === 'also'))
      .map((term) => ({ side, term })),
  );
  const boardsOfChosen = choices.boards.filter(
    (board) => board.groupId !== null && named(form.to, board.groupId) && board.denied === null,
  );
  const words = (term: Term): string =>
    spoken.get(JSON.stringify(term)) ?? audienceWords(term, audienceNames);
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-center gap-x-6 gap-y-2">
        <label className="flex min-h-11 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={everyone}
            disabled={!choices.audience.anybody && !everyone}
            onChange={(event) => set({ ...form, to: event.target.checked ? [{ kind: 'everyone' }] : [] })}
          />
          Everyone{choices.audience.anybody ? '' : ' (only a coordinator sends to everyone)'}
        </label>
        <label className="flex items-center gap-2">
          Find a group
          <input
            type="search"
            className="input w-56"
            value={filter}
            onChange={(event) => setFilter(event.target.value)}
          />
        </label>
      </div>
      <ul className="grid max-h-64 gap-x-8 overflow-y-auto sm:grid-cols-2">
        {shown.map((group) => {
          const side = named(form.to, group.id) ? 'in' : named(form.except, group.id) ? 'out' : 'neither';
          return (
            <li key={group.id}>
              <fieldset className="flex min-h-11 items-center justify-between gap-3 border-t border-base-300">
                <legend className="float-left">
                  {group.name}{' '}
                  <span className="text-sm text-quiet">
                    {group.kind}
                    {group.needsClearance ? ', asks for clearance' : ''}
                  </span>
                </legend>
                <span className="flex gap-3">
                  {(['in', 'out', 'neither'] as const).map((each) => (
                    <label key={each} className="flex min-h-11 cursor-pointer items-center gap-1 text-sm">
                      <input
                        type="radio"
                        name={`group-${group.id}`}
                        className="radio radio-sm radio-primary"
                        checked={side === each}
                        disabled={each === 'in' && everyone}
                        onChange={() => place(group.id, each)}
                      />
                      {each === 'neither' ? 'no' : each}
                    </label>
                  ))}
                </span>
              </fieldset>
            </li>
          );
        })}
      </ul>
      {choices.audience.groups.length === 0 ? (
        <p className="text-quiet">There are no groups yet; everyone can still be reached.</p>
      ) : null}
      {others.length > 0 ? (
        <ul className="mt-3 flex flex-wrap gap-2">
          {others.map(({ side, term }) => (
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
                onClick={() => set({ ...form, [side]: without(form[side], term) })}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      ) : null}
      <AddTerm
        choices={choices.audience}
        onAdd={(side, term, said) => {
          if (said !== undefined) setSpoken(new Map(spoken).set(JSON.stringify(term), said));
          add(side, term);
        }}
      />
      <Saved
        choices={choices.audience}
        audience={plan.audience}
        onTake={(audience) => onChange({ ...plan, audience })}
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
