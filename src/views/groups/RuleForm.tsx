import { useEffect, useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { audienceOf, formOf, sameTerm, type AudienceForm } from '../../core/audience/form.ts';
import { audienceWords } from '../../core/audience/words.ts';
import type { RuleOutcome } from '../../core/groups/group.ts';
import { people } from '../../core/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { AddTerm, SIDE_WORDS } from '../../ui/AddTerm.tsx';
import { Notice } from '../../ui/Notice.tsx';

function Names({ names, of }: { names: string[]; of: number }) {
  if (names.length === 0) return null;
  return (
    <span className="text-quiet" dir="auto">
      {names.join(', ')}
      {of > names.length ? ` and ${(of - names.length).toLocaleString('en-GB')} more` : ''}
    </span>
  );
}

/** What a rule would do, by name, before it is saved. */
function Outcome({ outcome, fresh }: { outcome: RuleOutcome; fresh: boolean }) {
  const { comesIn, goesOut } = outcome;
  return (
    <div role="status" className="border-l-4 border-info bg-base-200 px-4 py-2">
      <p className="font-semibold">
        {outcome.people === 0 ? 'Nobody would be in it.' : `${people(outcome.people)} would be in it.`}
      </p>
      {comesIn.people > 0 ? (
        <p>
          {fresh ? '' : `${people(comesIn.people)} would come in: `}
          <Names names={comesIn.names} of={comesIn.people} />
        </p>
      ) : null}
      {goesOut.people > 0 ? (
        <p className="text-warning">
          {people(goesOut.people)} would go out: <Names names={goesOut.names} of={goesOut.people} />
        </p>
      ) : null}
      {!fresh && comesIn.people === 0 && goesOut.people === 0 ? <p>Nobody comes in or goes out.</p> : null}
    </div>
  );
}

/** The rule of a live group: phrases that are added and taken out, and what they come to as it stands. */
export function RuleForm({
  rule,
  groupId,
  choices,
  onChange,
}: {
  rule: Audience | null;
  /** The group whose rule it is; null for one that is not made yet. */
  groupId: number | null;
  choices: AudienceChoices;
  onChange: (rule: Audience | null) => void;
}) {
  const form = formOf(rule);
  const [spoken, setSpoken] = useState(new Map<string, string>());
  const [shown, setShown] = useState<{ of: string; outcome: RuleOutcome }>();
  const [error, setError] = useState<string>();
  const written = rule ? JSON.stringify(rule) : '';
  useEffect(() => {
    if (written === '') return undefined;
    let current = true;
    ask<RuleOutcome>('POST', groupId === null ? '/api/groups/rule' : `/api/groups/${groupId}/rule`, {
      rule: JSON.parse(written) as Audience,
    }).then(
      (outcome) => {
        if (!current) return;
        setShown({ of: written, outcome });
        setError(undefined);
      },
      (problem: unknown) => {
        if (current) setError(wordsOf(problem));
      },
    );
    return () => {
      current = false;
    };
  }, [written, groupId]);
  if (!form)
    return (
      <div>
        <p className="mb-3">This rule says more than the phrases here can.</p>
        <button type="button" className="btn btn-outline" onClick={() => onChange(null)}>
          Begin anew
        </button>
      </div>
    );
  const set = (next: AudienceForm): void => onChange(audienceOf(next));
  const names = {
    group: () => undefined,
    station: (id: number) => choices.stations.find((each) => each.id === id)?.name,
    person: () => undefined,
    occurrence: (id: number) => choices.asks.find((each) => each.occurrenceId === id)?.title,
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
        <ul className="flex flex-wrap gap-2" aria-label="The rule">
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
      <AddTerm
        choices={{ ...choices, anybody: true }}
        onAdd={(side, term, said) => {
          if (said !== undefined) setSpoken(new Map(spoken).set(JSON.stringify(term), said));
          const clean = (list: AudienceForm['to']): AudienceForm['to'] =>
            list.filter((each) => !sameTerm(each, term));
          const next = { to: clean(form.to), also: clean(form.also), except: clean(form.except) };
          set({ ...next, [side]: [...next[side], term] });
        }}
      />
      {shown?.of === written && written !== '' ? (
        <Outcome outcome={shown.outcome} fresh={groupId === null} />
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </div>
  );
}
