import { useState } from 'react';
import type { Audience } from '../../core/audience/expression.ts';
import { isAboutPerson, type Automation, type Target, type When } from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import type { Fields } from '../../core/automation/condition.ts';
import { inputsOf } from '../../core/automation/source.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { Phrases } from '../../ui/Phrases.tsx';
import { TimeField } from '../../ui/DateField.tsx';
import { PlaceBoxes } from '../write/PlaceBoxes.tsx';
import { Boards, byId, Choice, ofFields, Select } from './controls.tsx';

export interface PanelProps {
  automation: Automation;
  choices: AutomationChoices;
  fields: Fields;
  zone: string;
  nowMs: number;
  onChange: (part: Partial<Automation>) => void;
}

const ofRecord = (name: string): boolean => name.startsWith('record.') || name.startsWith('call.');

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

const PERSON_WORDS: Partial<Record<When['kind'], string>> = {
  joins: 'The person who came',
  leaves: 'The person who went',
  'person date': 'The person whose day it is',
};

const targetKinds = (when: When): [Target['kind'] | 'none', string][] => [
  ['none', 'Nobody by inbox: it only goes up on boards'],
  ['audience', 'An audience'],
  ...(isAboutPerson(when)
    ? ([['person', PERSON_WORDS[when.kind] ?? 'That person']] as [Target['kind'], string][])
    : []),
  ...(when.kind === 'schedule' && when.sheetId === null
    ? []
    : isAboutPerson(when)
      ? []
      : ([['named', 'Whoever a column names']] as [Target['kind'], string][])),
  ['owner', 'Whoever looks after a group'],
];

function TargetDetail({ automation, choices, fields, onChange }: PanelProps) {
  const { tell } = automation;
  const { to } = tell;
  const set = (next: Target): void => onChange({ tell: { ...tell, to: next } });
  switch (to?.kind) {
    case 'audience':
      return (
        <Phrases
          audience={to.audience}
          label="Who is told"
          choices={choices.audience}
          onChange={(audience) => set({ kind: 'audience', audience: audience ?? { kind: 'any', of: [] } })}
        />
      );
    case 'named':
      return (
        <div className="flex flex-wrap gap-3">
          <Select
            label="The column"
            value={to.field}
            options={ofFields(fields, (name) => ofRecord(name) || name.startsWith('found.'))}
            onChange={(field) => set({ ...to, field })}
          />
          <Select
            label="It holds"
            value={to.system}
            options={[
              { value: '', words: 'a mail address or a name' },
              ...choices.systems.map((system) => ({
                value: system,
                words: `what they are called in ${system}`,
              })),
            ]}
            onChange={(system) => set({ ...to, system })}
          />
        </div>
      );
    case 'owner':
      return (
        <div className="max-w-sm">
          <Select
            label="The group"
            value={String(to.groupId)}
            options={byId(choices.audience.groups)}
            onChange={(id) => set({ kind: 'owner', groupId: Number(id) })}
          />
        </div>
      );
    default:
      return null;
  }
}

export function TellPanel(props: PanelProps) {
  const { automation, choices, fields, onChange } = props;
  const { tell, when } = automation;
  const begin = (kind: string): Target | null => {
    switch (kind) {
      case 'audience':
        return { kind: 'audience', audience: { kind: 'any', of: [] } };
      case 'person':
        return { kind: 'person' };
      case 'named':
        return { kind: 'named', field: ofFields(fields, ofRecord)[0]?.value ?? '', system: '' };
      case 'owner':
        return { kind: 'owner', groupId: choices.audience.groups[0]?.id ?? 0 };
      default:
        return null;
    }
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="grid gap-x-6 sm:grid-cols-2">
        {targetKinds(when).map(([kind, words]) => (
          <Choice
            key={kind}
            name="target"
            checked={(tell.to?.kind ?? 'none') === kind}
            words={words}
            onChoose={() => onChange({ tell: { ...tell, to: begin(kind) } })}
          />
        ))}
      </div>
      <TargetDetail {...props} />
      {tell.to ? (
        <label className="flex min-h-10 items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={tell.mail}
            onChange={(event) => onChange({ tell: { ...tell, mail: event.target.checked } })}
          />
          By mail as well as in the inbox
        </label>
      ) : null}
      <Boards
        boards={choices.boards}
        chosen={tell.boards}
        onChange={(boards) => onChange({ tell: { ...tell, boards } })}
      />
      <PlaceBoxes
        places={choices.outside}
        chosen={tell.outside}
        onChange={(outside) => onChange({ tell: { ...tell, outside } })}
      />
      {ofFields(fields, ofRecord).length > 0 ? (
        <div className="max-w-sm">
          <Select
            label="And on the board that a column names"
            value={tell.boardField ?? ''}
            options={ofFields(fields, ofRecord)}
            none="no column"
            onChange={(field) => onChange({ tell: { ...tell, boardField: field === '' ? null : field } })}
          />
        </div>
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
      const sender = await ask<{ id: number; name: string }>('POST', '/api/senders', { name });
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
