import { acknowledgement, askProblems, hasDeadline, type Ask, type Asking } from '../../core/asks/ask.ts';
import { USUAL_QUESTIONS } from '../../core/asks/checkIn.ts';
import { EMPTY_POLL } from '../../core/asks/poll.ts';
import { isLocal } from '../../core/plan/plan.ts';
import { ChaseFields } from './ChaseFields.tsx';
import { CheckInFields } from './CheckInFields.tsx';
import type { PanelProps } from './draft.ts';
import { MomentFields, wallIn } from './MomentFields.tsx';
import { NumberField } from './NumberField.tsx';
import { PollFields } from './PollFields.tsx';

const KINDS: { kind: Ask['kind']; words: string }[] = [
  { kind: 'nothing', words: 'Nothing back' },
  { kind: 'acknowledgement', words: 'An acknowledgement: one tap that says it was read' },
  { kind: 'poll', words: 'A poll: one question, and what they choose' },
  { kind: 'check-in', words: 'A check-in: a few questions on working days' },
];

/** Another kind of ask, with what both have in common. */
function turned(kind: Ask['kind'], before: Ask): Ask {
  const common =
    before.kind === 'nothing'
      ? { deadline: null, within: null, chase: null, joiners: false }
      : {
          deadline: before.deadline,
          within: before.within,
          chase: before.chase,
          joiners: before.joiners,
        };
  switch (kind) {
    case 'nothing':
      return { kind };
    case 'acknowledgement':
      return acknowledgement(common);
    case 'poll':
      return { kind, ...common, poll: EMPTY_POLL };
    case 'check-in':
      return {
        kind,
        ...common,
        within: common.within ?? 8,
        deadline: null,
        questions: USUAL_QUESTIONS,
        digestOn: [],
      };
  }
}

const DEADLINE_WORDS: Record<Asking['kind'], string> = {
  acknowledgement: 'with a deadline',
  poll: 'closes at a time',
  'check-in': 'closes at a time',
};

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
                if (ask.kind !== kind) set(turned(kind, ask));
              }}
            />
            {words}
          </label>
        ))}
      </div>
      {ask.kind === 'acknowledgement' ? (
        <label className="flex flex-col gap-1">
          What they agree to by it, if anything
          <textarea
            className="textarea w-full"
            rows={2}
            maxLength={600}
            value={ask.statement}
            onChange={(event) => set({ ...ask, statement: event.target.value })}
          />
        </label>
      ) : null}
      {ask.kind === 'poll' ? (
        <PollFields
          poll={ask.poll}
          choices={choices}
          zone={zone}
          nowMs={nowMs}
          onChange={(poll) => set({ ...ask, poll })}
        />
      ) : null}
      {ask.kind === 'check-in' ? (
        <CheckInFields
          questions={ask.questions}
          digestOn={ask.digestOn}
          boards={choices.boards}
          onChange={(part) => set({ ...ask, ...part })}
        />
      ) : null}
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
            {DEADLINE_WORDS[ask.kind]}
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
          {ask.kind === 'check-in' ? null : (
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
