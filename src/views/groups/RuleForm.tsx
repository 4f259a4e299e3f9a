import { useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import type { RuleOutcome } from '../../core/groups/group.ts';
import { leavesOf } from '../../core/audience/expression.ts';
import { dayWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { DateField } from '../../ui/DateField.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { Phrases } from '../../ui/Phrases.tsx';
import { useWorkedOut } from '../../ui/server.ts';

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
function Outcome({ outcome, fresh, on }: { outcome: RuleOutcome; fresh: boolean; on: string }) {
  const { comesIn, goesOut } = outcome;
  return (
    <div role="status" className="border-l-4 border-info bg-base-200 px-4 py-2">
      <p className="font-semibold">
        {outcome.people === 0 ? 'Nobody' : people(outcome.people)} would be in it
        {on === '' ? '' : ` on ${dayWords(on)}`}.
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
  label = 'The rule',
  onChange,
}: {
  rule: Audience | null;
  /** The group whose rule it is; null for one that is not made yet. */
  groupId: number | null;
  choices: AudienceChoices;
  label?: string;
  onChange: (rule: Audience | null) => void;
}) {
  const [on, setOn] = useState('');
  const { data: outcome, error } = useWorkedOut(
    rule === null ? null : groupId === null ? '/api/groups/rule' : `/api/groups/${groupId}/rule`,
    { rule, on: on === '' ? null : on },
    { keepPrevious: false },
  );
  return (
    <div className="flex flex-col gap-3">
      <Phrases audience={rule} label={label} choices={choices} onChange={onChange} />
      {rule && outcome ? <Outcome outcome={outcome} fresh={groupId === null} on={on} /> : null}
      {rule && leavesOf(rule).some((part) => part.kind === 'joined within' || part.kind === 'group') ? (
        <DateField label="Try it as on another date" className="w-56 text-sm" value={on} onChange={setOn} />
      ) : null}
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
    </div>
  );
}
