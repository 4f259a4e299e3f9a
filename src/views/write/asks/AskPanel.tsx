import { wordsOfKind } from '../../../core/asks/askWords.ts';
import { askProblems, hasDeadline, type Ask, type Asking } from '../../../core/asks/ask.ts';
import { isLocal } from '../../../core/plan/plan.ts';
import { ChaseFields } from './ChaseFields.tsx';
import type { FieldsProps } from './kind.ts';
import { turnedInto, WRITTEN_KINDS, writtenKind } from './kinds.ts';
import type { PanelProps } from '../draft.ts';
import { MomentFields, wallIn } from '../MomentFields.tsx';
import { NumberField } from '../NumberField.tsx';

const KINDS: { kind: Ask['kind']; words: string }[] = [
  { kind: 'nothing', words: 'Nothing back' },
  ...WRITTEN_KINDS.map((kind) => ({ kind, words: wordsOfKind(kind).offered })),
];

/** What is written of an ask of one kind alone. */
function OwnFields(props: FieldsProps<Asking>) {
  const { Fields } = writtenKind(props.ask.kind);
  return <Fields {...props} />;
}

/** What is wanted back: nothing, an acknowledgement, a poll or a check-in, until when, and the chase. */
export function AskPanel({ plan, choices, zone, nowMs, onChange }: PanelProps) {
  const { ask } = plan;
  const recurring = plan.timing.kind === 'recurring';
  const local = isLocal(plan.timing);
  const set = (next: Ask): void => onChange({ ...plan, ask: next });
  const problems = askProblems(ask);
  return (
    <div className="flex flex-col gap-2">
      <div className="grid gap-x-6 sm:grid-cols-2">
        {KINDS.map(({ kind, words }) => (
          <label key={kind} className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="radio"
              name="ask"
              className="radio radio-primary"
              checked={ask.kind === kind}
              onChange={() => {
                if (ask.kind !== kind) set(turnedInto(kind, ask));
              }}
            />
            {words}
          </label>
        ))}
      </div>
      {ask.kind === 'nothing' ? null : (
        <OwnFields ask={ask} choices={choices} zone={zone} nowMs={nowMs} onChange={set} />
      )}
      {ask.kind === 'nothing' ? null : (
        <>
          <label className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={hasDeadline(ask)}
              onChange={(event) =>
                set({
                  ...ask,
                  deadline:
                    event.target.checked && !recurring
                      ? { wall: wallIn(zone, nowMs, 3, '12:00'), zone }
                      : null,
                  within: event.target.checked && recurring ? 24 : null,
                })
              }
            />
            {wordsOfKind(ask.kind).withDeadline}
          </label>
          {ask.deadline ? (
            <MomentFields
              moment={ask.deadline}
              choices={choices}
              onChange={(deadline) => set({ ...ask, deadline, within: null })}
            />
          ) : null}
          {ask.within !== null || (ask.deadline && recurring) ? (
            <NumberField
              label={local ? 'Hours after the last reader gets it' : 'Hours after it goes out'}
              value={ask.within ?? 24}
              min={1}
              max={2400}
              onChange={(within) => set({ ...ask, deadline: null, within })}
            />
          ) : null}
          <ChaseFields
            chase={ask.chase}
            hasDeadline={hasDeadline(ask)}
            onChange={(chase) => set({ ...ask, chase })}
          />
          {!writtenKind(ask.kind).joiners ? null : (
            <label className="flex min-h-11 cursor-pointer items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                checked={ask.joiners}
                onChange={(event) => set({ ...ask, joiners: event.target.checked })}
              />
              also ask those who join the groups while it is open
            </label>
          )}
          {problems.length > 0 ? (
            <ul className="text-sm text-warning" aria-label="Still to do for what is asked">
              {problems.map((problem) => (
                <li key={`${problem.field} ${problem.detail}`}>{problem.detail}</li>
              ))}
            </ul>
          ) : null}
        </>
      )}
    </div>
  );
}
