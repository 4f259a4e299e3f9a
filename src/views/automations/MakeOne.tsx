import { useState } from 'react';
import type { When } from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import {
  sheetsFor,
  templateLacks,
  TEMPLATES,
  type Answered,
  type Template,
} from '../../core/automation/templates.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { TimeField } from '../../ui/DateField.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { wallIn } from '../write/MomentFields.tsx';
import { byId, Select } from './controls.tsx';
import { beginWhen, WhenFields } from './WhenPanel.tsx';
import type { Takes } from '../../ui/client.ts';

const FROM_NOTHING = '';
const FROM_FILE = 'file';

/** What an automation begins with: a template, one that was taken out, or a name and what sets it off. */
export function MakeOne({
  choices,
  zone,
  nowMs,
  onClose,
}: {
  choices: AutomationChoices;
  zone: string;
  nowMs: number;
  onClose: () => void;
}) {
  const [name, setName] = useState('');
  const [from, setFrom] = useState(FROM_NOTHING);
  const [when, setWhen] = useState<When | null>(
    () => beginWhen('joins', choices, zone, nowMs) ?? beginWhen('schedule', choices, zone, nowMs),
  );
  const [answered, setAnswered] = useState<Answered>(() => firstAnswers(choices));
  const [taken, setTaken] = useState<string>();
  const [error, setError] = useState<string>();
  const template = TEMPLATES.find((each) => each.key === from);
  const choose = (key: string): void => {
    setFrom(key);
    setError(undefined);
    const next = TEMPLATES.find((each) => each.key === key);
    if (next) setAnswered((before) => begin(next, before, choices));
  };
  const begun = (): Takes<'POST', '/api/automations'> | null => {
    if (taken !== undefined && from === FROM_FILE) return { taken, name };
    const around = { choices, zone, tomorrow: wallIn(zone, nowMs, 1, '00:00').slice(0, 10) };
    if (template) return { automation: template.make({ ...answered, name }, around) };
    return when && { name, when };
  };
  const ready = from === FROM_FILE ? taken !== undefined : name.trim() !== '' && (template ?? when) !== null;
  const make = async (): Promise<void> => {
    const given = begun();
    if (!given) return;
    try {
      const { id } = await request('POST', '/api/automations', given);
      location.assign(`/automations/${id}`);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const read = async (file: File | undefined): Promise<void> => {
    setError(undefined);
    setTaken(file ? await file.text() : undefined);
  };
  return (
    <Dialog
      open
      title="Make an automation"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Make none
          </button>
          <button type="button" className="btn btn-primary" disabled={!ready} onClick={() => void make()}>
            Write it
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <label className="flex flex-col gap-1">
          Name
          <input
            className="input w-full"
            maxLength={80}
            dir="auto"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1">
          It begins as
          <select className="select w-full" value={from} onChange={(event) => choose(event.target.value)}>
            <option value={FROM_NOTHING}>nothing written yet</option>
            {TEMPLATES.map((each) => {
              const lacks = templateLacks(each, choices);
              return (
                <option key={each.key} value={each.key} disabled={lacks !== null}>
                  {lacks === null ? each.words : `${each.words} (${lacks})`}
                </option>
              );
            })}
            <option value={FROM_FILE}>one that was taken out, from a file</option>
          </select>
        </label>
        {template ? (
          <Asks template={template} answered={answered} choices={choices} onChange={setAnswered} />
        ) : null}
        {from === FROM_FILE ? (
          <label className="flex flex-col gap-1">
            The file
            <input
              type="file"
              accept="application/json,.json"
              className="file-input w-full"
              onChange={(event) => void read(event.target.files?.[0])}
            />
            <span className="text-sm text-quiet">
              Groups, boards, outside places and sheets are named in it by number: look at each phrase before
              it is put to work.
            </span>
          </label>
        ) : null}
        {from === FROM_NOTHING && when ? (
          <div>
            <p className="mb-1">It speaks when …</p>
            <WhenFields when={when} choices={choices} zone={zone} nowMs={nowMs} onChange={setWhen} />
          </div>
        ) : null}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Dialog>
  );
}

const firstAnswers = (choices: AutomationChoices): Answered => ({
  name: '',
  groupId: choices.audience.groups[0]?.id ?? null,
  boardId: choices.boards.find((board) => board.automations)?.id ?? null,
  sheetId: choices.sheets[0]?.id ?? null,
  sourceId: choices.sources[0]?.id ?? null,
  sessionId: choices.sessions[0]?.id ?? null,
  hour: '09:00',
});

/** What was answered before, as far as it fits the template. */
function begin(template: Template, before: Answered, choices: AutomationChoices): Answered {
  const fitting = sheetsFor(template, choices);
  return {
    ...before,
    sheetId: fitting.some((sheet) => sheet.id === before.sheetId) ? before.sheetId : (fitting[0]?.id ?? null),
    hour: template.hour || before.hour,
  };
}

const idOf = (value: string): number | null => (value === '' ? null : Number(value));

/** What a template asks for: only what differs. */
function Asks({
  template,
  answered,
  choices,
  onChange,
}: {
  template: Template;
  answered: Answered;
  choices: AutomationChoices;
  onChange: (answered: Answered) => void;
}) {
  const { asks } = template;
  const set = (part: Partial<Answered>): void => onChange({ ...answered, ...part });
  const value = (id: number | null): string => (id === null ? '' : String(id));
  return (
    <>
      {asks.includes('group') ? (
        <Select
          label="Which group"
          value={value(answered.groupId)}
          options={byId(choices.audience.groups)}
          onChange={(id) => set({ groupId: idOf(id) })}
        />
      ) : null}
      {asks.includes('sheet') ? (
        <Select
          label="Which record sheet"
          value={value(answered.sheetId)}
          options={byId(sheetsFor(template, choices))}
          onChange={(id) => set({ sheetId: idOf(id) })}
        />
      ) : null}
      {asks.includes('session') ? (
        <Select
          label="Which session"
          value={value(answered.sessionId)}
          options={choices.sessions.map(({ id, title }) => ({ value: String(id), words: title }))}
          onChange={(id) => set({ sessionId: idOf(id) })}
        />
      ) : null}
      {asks.includes('source') ? (
        <Select
          label="Which source"
          value={value(answered.sourceId)}
          options={byId(choices.sources)}
          onChange={(id) => set({ sourceId: idOf(id) })}
        />
      ) : null}
      {asks.includes('board') ? (
        <Select
          label="On which board"
          value={value(answered.boardId)}
          none="none"
          options={byId(choices.boards.filter((board) => board.automations))}
          onChange={(id) => set({ boardId: idOf(id) })}
        />
      ) : null}
      {asks.includes('hour') ? (
        <TimeField label="At what hour" value={answered.hour} onChange={(hour) => set({ hour })} />
      ) : null}
    </>
  );
}
