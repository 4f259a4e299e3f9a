import {
  ASKED,
  INVITED,
  isAboutPerson,
  listensToAsks,
  type Target,
  type When,
} from '../../core/automation/automation.ts';
import { ASKED_WORDS, INVITED_WORDS } from '../../core/automation/words.ts';
import { Phrases } from '../../ui/Phrases.tsx';
import { PlaceBoxes } from '../write/PlaceBoxes.tsx';
import { Boards, byId, Choice, ofFields, ofRecord, Select } from './controls.tsx';
import type { PanelProps } from './panels.tsx';

const PERSON_WORDS: Partial<Record<When['kind'], string>> = {
  joins: 'The person who came',
  leaves: 'The person who went',
  'person date': 'The person whose day it is',
};

type Kinds = [Target['kind'] | 'none', string][];
/** Those of whom only what sets it off says who they are. */
function ofCause(when: When): Kinds {
  if (isAboutPerson(when)) return [['person', PERSON_WORDS[when.kind] ?? 'That person']];
  if (when.kind === 'session') return [['invited', 'Those it is for']];
  if (listensToAsks(when))
    return [
      ['author', 'Whoever asked'],
      ['asked', 'Those who were asked'],
    ];
  return when.kind === 'schedule' && when.sheetId === null ? [] : [['named', 'Whoever a column names']];
}

const targetKinds = (when: When): Kinds => [
  ['none', 'Nobody by inbox: it only goes up on boards'],
  ['audience', 'An audience'],
  ...ofCause(when),
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
    case 'invited':
      return (
        <Which
          words={INVITED_WORDS}
          each={INVITED}
          which={to.which}
          onChange={(which) => set({ ...to, which })}
        />
      );
    case 'asked':
      return (
        <Which
          words={ASKED_WORDS}
          each={ASKED}
          which={to.which}
          onChange={(which) => set({ ...to, which })}
        />
      );
    default:
      return null;
  }
}

/** Which of them. */
function Which<W extends string>({
  words,
  each,
  which,
  onChange,
}: {
  words: Record<W, string>;
  each: readonly W[];
  which: W;
  onChange: (which: W) => void;
}) {
  return (
    <div className="max-w-sm">
      <Select
        label="Which of them"
        value={which}
        options={each.map((one) => ({ value: one, words: words[one] }))}
        onChange={(chosen) => onChange(each.find((one) => one === chosen) ?? which)}
      />
    </div>
  );
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
      case 'invited':
        return { kind: 'invited', which: 'not declined' };
      case 'asked':
        return { kind: 'asked', which: 'silent' };
      case 'author':
        return { kind: 'author' };
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
