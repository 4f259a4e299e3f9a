import { useRef, useState } from 'react';
import type { AudienceChoices } from '../core/audience/choices.ts';
import type { Audience } from '../core/audience/expression.ts';
import { audienceOf, formOf, sameTerm, type AudienceForm, type Term } from '../core/audience/form.ts';
import { audienceWords } from '../core/audience/words.ts';
import { AddTerm, SIDE_WORDS, type Side } from './AddTerm.tsx';
import { FindGroup } from './FindGroup.tsx';

/** An audience as phrases that are added and taken out: of a rule, or of whom a list shows. */
export function Phrases({
  audience,
  label,
  choices,
  onChange,
}: {
  audience: Audience | null;
  /** What the phrases are of, for screen readers. */
  label: string;
  choices: AudienceChoices;
  onChange: (audience: Audience | null) => void;
}) {
  const form = formOf(audience);
  const [spoken, setSpoken] = useState(new Map<string, string>());
  const field = useRef<HTMLInputElement>(null);
  if (!form)
    return (
      <div>
        <p className="mb-3">This says more than the phrases here can.</p>
        <button type="button" className="btn btn-outline" onClick={() => onChange(null)}>
          Begin anew
        </button>
      </div>
    );
  const set = (next: AudienceForm): void => onChange(audienceOf(next));
  const add = (side: Side, term: Term): void => {
    const clean = (list: Term[]): Term[] => list.filter((each) => !sameTerm(each, term));
    const next = { to: clean(form.to), also: clean(form.also), except: clean(form.except) };
    set({ ...next, [side]: [...next[side], term] });
  };
  const names = {
    group: (id: number) => [...choices.groups, ...choices.archived].find((each) => each.id === id)?.name,
    station: (id: number) => choices.stations.find((each) => each.id === id)?.name,
    person: () => undefined,
    occurrence: (id: number) => choices.asks.find((each) => each.occurrenceId === id)?.title,
    session: (id: number) => choices.sessions.find((each) => each.dateId === id)?.words,
  };
  const terms = (['to', 'also', 'except'] as const).flatMap((side) =>
    form[side].map((term) => ({
      side,
      term,
      words: spoken.get(JSON.stringify(term)) ?? audienceWords(term, names),
    })),
  );
  return (
    <div className="flex flex-col gap-3">
      <label className="flex min-h-11 items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={form.to.some((term) => term.kind === 'everyone')}
          onChange={(event) => set({ ...form, to: event.target.checked ? [{ kind: 'everyone' }] : [] })}
        />
        Begin with everyone
      </label>
      {terms.length === 0 ? (
        <p className="text-quiet">No phrase yet: add who belongs to it.</p>
      ) : (
        <ul className="flex flex-wrap gap-2" aria-label={label}>
          {terms.map(({ side, term, words }) => (
            <li
              key={side + JSON.stringify(term)}
              className="flex items-center gap-2 border border-base-300 bg-base-200 pl-3"
            >
              <span>
                <span className="text-quiet">{SIDE_WORDS[side]}</span> {words}
              </span>
              <button
                type="button"
                className="min-h-9 px-3 text-primary"
                aria-label={`Take out: ${words}`}
                onClick={() => set({ ...form, [side]: form[side].filter((each) => !sameTerm(each, term)) })}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
      {choices.groups.length > 0 ? (
        <FindGroup choices={choices} form={form} field={field} onAdd={add} />
      ) : null}
      <AddTerm
        choices={{ ...choices, anybody: true }}
        onAdd={(side, term, said) => {
          if (said !== undefined) setSpoken(new Map(spoken).set(JSON.stringify(term), said));
          add(side, term);
        }}
      />
    </div>
  );
}
