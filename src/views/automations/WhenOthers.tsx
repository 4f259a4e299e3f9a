import { LISTENED_ASKS, SESSION_EDGES, type When } from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import { SPANS } from '../../core/automation/condition.ts';
import { Choice, Select } from './controls.tsx';
import { SpanField } from './SpanField.tsx';

type Of<K extends When['kind']> = Extract<When, { kind: K }>;

/** Which session it goes by, and how long before or after. */
export function SessionFields({
  when,
  sessions,
  onChange,
}: {
  when: Of<'session'>;
  sessions: AutomationChoices['sessions'];
  onChange: (when: When) => void;
}) {
  const known = sessions.map(({ id, title, recurs }) => ({
    value: String(id),
    words: recurs ? `${title}, each time` : title,
  }));
  const gone = sessions.some(({ id }) => id === when.sessionId)
    ? []
    : [{ value: String(when.sessionId), words: 'one that has no date ahead' }];
  return (
    <>
      <div className="max-w-sm">
        <Select
          label="The session"
          value={String(when.sessionId)}
          options={[...gone, ...known]}
          onChange={(id) => onChange({ ...when, sessionId: Number(id) })}
        />
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <SpanField
          span={when.span}
          unit={when.unit}
          none="at that moment, or after"
          onChange={(span) => onChange({ ...when, span })}
        />
        <Select
          label="Counted in"
          value={when.unit}
          options={SPANS.map((each) => ({ value: each, words: each }))}
          onChange={(unit) => onChange({ ...when, unit: SPANS.find((each) => each === unit) ?? 'minutes' })}
        />
        <Select
          label="It"
          value={when.edge}
          options={SESSION_EDGES.map((each) => ({ value: each, words: each }))}
          onChange={(edge) =>
            onChange({ ...when, edge: SESSION_EDGES.find((each) => each === edge) ?? 'begins' })
          }
        />
      </div>
      <p className="text-sm text-quiet">
        A date that is moved moves this with it; one that is called off is passed over.
      </p>
    </>
  );
}

const ASK_WORDS: Record<Of<'ask closes'>['asks'], string> = {
  any: 'Anything that was asked',
  acknowledgement: 'Acknowledgements',
  poll: 'Polls',
  'check-in': 'Check-ins',
};

/** Which asks it listens to, and by how many they are to be answered. */
export function AskFields({
  when,
  all,
  onChange,
}: {
  when: Of<'ask closes'> | Of<'ask answered'>;
  /** Whether asks of others can be listened to. */
  all: boolean;
  onChange: (when: When) => void;
}) {
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="What was asked"
          value={when.asks}
          options={LISTENED_ASKS.map((each) => ({ value: each, words: ASK_WORDS[each] }))}
          onChange={(asks) =>
            onChange({ ...when, asks: LISTENED_ASKS.find((each) => each === asks) ?? 'any' })
          }
        />
        {when.kind === 'ask answered' ? (
          <label className="flex flex-col gap-1">
            Answered by, in percent
            <input
              type="number"
              min={1}
              max={100}
              className="input w-28"
              value={when.share}
              onChange={(event) =>
                onChange({
                  ...when,
                  share: Math.min(100, Math.max(1, Math.trunc(Number(event.target.value)))),
                })
              }
            />
          </label>
        ) : null}
      </div>
      <Choice
        name="whose"
        checked={when.whose === 'own'}
        words="Of what its owner asks"
        onChoose={() => onChange({ ...when, whose: 'own' })}
      />
      {all || when.whose === 'all' ? (
        <Choice
          name="whose"
          checked={when.whose === 'all'}
          words="Of what anybody asks"
          onChoose={() => onChange({ ...when, whose: 'all' })}
        />
      ) : null}
      <p className="text-sm text-quiet">
        {when.kind === 'ask closes'
          ? 'An acknowledgement stays open, as a late one counts: of it, its deadline sets this off.'
          : 'Once for each ask, as soon as so many have answered.'}
      </p>
    </>
  );
}
