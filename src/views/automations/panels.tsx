import { useState } from 'react';
import type { Audience } from '../../core/audience/expression.ts';
import type { Automation } from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import type { Fields } from '../../core/automation/condition.ts';
import { inputsOf } from '../../core/automation/source.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { Phrases } from '../../ui/Phrases.tsx';
import { TimeField } from '../../ui/DateField.tsx';
import { Boards, byId, Choice, ofFields, ofRecord, Select } from './controls.tsx';

export interface PanelProps {
  automation: Automation;
  choices: AutomationChoices;
  fields: Fields;
  zone: string;
  nowMs: number;
  onChange: (part: Partial<Automation>) => void;
}

/** What the present choice of what it listens to says of records. */
export function EachPanel({ automation, fields, onChange }: PanelProps) {
  const { each } = automation;
  const columns = ofFields(fields, ofRecord);
  return (
    <div className="flex flex-col gap-1">
      <Choice
        name="each"
        checked={each.kind === 'each'}
        words="Each record by itself"
        onChoose={() => onChange({ each: { kind: 'each' } })}
      />
      <Choice
        name="each"
        checked={each.kind === 'group'}
        words="Each group of records that are equal in a column: one for each station, not one for each row"
        onChoose={() => onChange({ each: { kind: 'group', field: columns[0]?.value ?? '' } })}
      />
      {each.kind === 'group' ? (
        <div className="max-w-xs pl-8">
          <Select
            label="Equal in"
            value={each.field}
            options={columns}
            onChange={(field) => onChange({ each: { kind: 'group', field } })}
          />
        </div>
      ) : null}
      <Choice
        name="each"
        checked={each.kind === 'once'}
        words="All of them at once, in one message"
        onChoose={() => onChange({ each: { kind: 'once' } })}
      />
      <p className="text-sm text-quiet">Where nothing meets the conditions, nothing is said.</p>
    </div>
  );
}

export function LookupPanel({ automation, choices, fields, onChange }: PanelProps) {
  const { lookup } = automation;
  const source = choices.sources.find((each) => each.id === lookup?.sourceId);
  const given = ofFields(fields, (name) => !name.startsWith('found.') && name !== 'run.count');
  if (choices.sources.length === 0)
    return (
      <p>
        There is no source to ask yet. A coordinator adds one under{' '}
        <a className="link" href="/sources">
          Sources
        </a>
        .
      </p>
    );
  return (
    <div className="flex flex-col gap-3">
      <div className="max-w-sm">
        <Select
          label="Ask"
          value={lookup === null ? '' : String(lookup.sourceId)}
          options={byId(choices.sources)}
          none="nothing"
          onChange={(id) => onChange({ lookup: id === '' ? null : { sourceId: Number(id), inputs: {} } })}
        />
      </div>
      {lookup && source ? (
        <>
          {inputsOf(source.url).map((input) => (
            <div key={input} className="max-w-sm">
              <Select
                label={`Its ${input} is`}
                value={lookup.inputs[input] ?? ''}
                options={given}
                none="choose …"
                onChange={(field) =>
                  onChange({ lookup: { ...lookup, inputs: { ...lookup.inputs, [input]: field } } })
                }
              />
            </div>
          ))}
          <p className="text-quiet">
            It brings {source.fields.map((field) => field.name).join(', ')}. Asked once for each distinct
            value.
          </p>
        </>
      ) : null}
    </div>
  );
}

export function DuePanel({ automation, onChange }: PanelProps) {
  const { due } = automation;
  return (
    <div className="flex flex-col gap-2">
      <Choice
        name="due"
        checked={due.kind === 'at once'}
        words="At once"
        onChoose={() => onChange({ due: { kind: 'at once' } })}
      />
      <Choice
        name="due"
        checked={due.kind === 'hour'}
        words="The next time the clock of whoever is told shows an hour"
        onChoose={() => onChange({ due: { kind: 'hour', time: '08:30' } })}
      />
      {due.kind === 'hour' ? (
        <TimeField
          label="Hour"
          className="w-32"
          value={due.time}
          onChange={(time) => {
            if (/^\d{2}:\d{2}$/.test(time)) onChange({ due: { kind: 'hour', time } });
          }}
        />
      ) : null}
      <p className="text-sm text-quiet">
        Quiet hours hold as for any announcement: what is not urgent waits for their end.
      </p>
    </div>
  );
}

export function FromPanel({
  automation,
  choices,
  onChange,
  onSender,
}: PanelProps & { onSender: (sender: { id: number; name: string }) => void }) {
  const [name, setName] = useState('');
  const [error, setError] = useState<string>();
  const make = async (): Promise<void> => {
    setError(undefined);
    try {
      const sender = await request('POST', '/api/senders', { name });
      onSender(sender);
      setName('');
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="max-w-sm">
        <Select
          label="It comes from"
          value={automation.senderId === null ? '' : String(automation.senderId)}
          options={byId(choices.senders)}
          none="whoever looks after it"
          onChange={(id) => onChange({ senderId: id === '' ? null : Number(id) })}
        />
      </div>
      <div className="flex flex-wrap items-end gap-2">
        <label className="flex flex-col gap-1">
          Or make a sender, such as “The vault desk”
          <input
            className="input"
            maxLength={80}
            value={name}
            dir="auto"
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <button
          type="button"
          className="btn btn-outline"
          disabled={name.trim() === ''}
          onClick={() => void make()}
        >
          Make it
        </button>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <p className="text-sm text-quiet">
        A reader always sees that it was sent by itself, by which automation, and whose it is.
      </p>
    </div>
  );
}

export function OtherwisePanel({ automation, choices, onChange }: PanelProps) {
  const { tell } = automation;
  const otherwise = tell.otherwise ?? { audience: null, boards: [] };
  const set = (part: Partial<typeof otherwise>): void => {
    const next = { ...otherwise, ...part };
    onChange({
      tell: { ...tell, otherwise: !next.audience && next.boards.length === 0 ? null : next },
    });
  };
  return (
    <div className="flex flex-col gap-3">
      <p>Where the one a column names is not found, these are told instead, so that it never reads “Hi ,”.</p>
      <Phrases
        audience={otherwise.audience}
        label="Who is told instead"
        choices={choices.audience}
        onChange={(audience: Audience | null) => set({ audience })}
      />
      <Boards boards={choices.boards} chosen={otherwise.boards} onChange={(boards) => set({ boards })} />
    </div>
  );
}
