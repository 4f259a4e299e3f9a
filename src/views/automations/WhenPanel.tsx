import type { When } from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import { WEEKLY } from '../../core/timing/rule.ts';
import { RuleFields } from '../write/RuleFields.tsx';
import { WallFields, wallIn } from '../write/MomentFields.tsx';
import { Choice, Select } from './controls.tsx';

/** What sets an automation off, to begin with: the first of what there is. */
export function beginWhen(
  kind: When['kind'],
  choices: AutomationChoices,
  zone: string,
  nowMs: number,
): When | null {
  const [group] = choices.audience.groups;
  const [sheet] = choices.sheets;
  const withForm = choices.sheets.find((each) => each.form);
  switch (kind) {
    case 'joins':
    case 'leaves':
      return group ? { kind, groupId: group.id } : null;
    case 'schedule':
      return { kind, start: wallIn(zone, nowMs, 1, '09:00'), zone, rule: { ...WEEKLY }, sheetId: null };
    case 'meets':
      return sheet ? { kind, sheetId: sheet.id, again: false } : null;
    case 'sent in':
      return withForm ? { kind, sheetId: withForm.id } : null;
  }
}

const KINDS: [When['kind'], string, string][] = [
  ['joins', 'Somebody comes into a group', 'There is no group yet.'],
  ['leaves', 'Somebody goes out of a group', 'There is no group yet.'],
  ['schedule', 'A day and an hour come round', ''],
  ['meets', 'A record comes to meet conditions', 'There is no record sheet yet.'],
  ['sent in', 'A form is sent in', 'No record sheet has a form yet.'],
];

/** What sets it off. */
export function WhenFields({
  when,
  choices,
  zone,
  nowMs,
  onChange,
}: {
  when: When;
  choices: AutomationChoices;
  zone: string;
  nowMs: number;
  onChange: (when: When) => void;
}) {
  const groups = choices.audience.groups.map(({ id, name }) => ({ value: String(id), words: name }));
  const sheets = choices.sheets.map(({ id, name }) => ({ value: String(id), words: name }));
  return (
    <div className="flex flex-col gap-3">
      <div className="grid gap-x-6 sm:grid-cols-2">
        {KINDS.map(([kind, words, none]) => {
          const begun = beginWhen(kind, choices, zone, nowMs);
          return (
            <div key={kind}>
              <Choice
                name="when"
                checked={when.kind === kind}
                words={begun ? words : `${words} (${none})`}
                onChoose={() => {
                  if (begun) onChange(begun);
                }}
              />
            </div>
          );
        })}
      </div>
      {when.kind === 'joins' || when.kind === 'leaves' ? (
        <div className="max-w-sm">
          <Select
            label="The group"
            value={String(when.groupId)}
            options={groups}
            onChange={(id) => onChange({ ...when, groupId: Number(id) })}
          />
        </div>
      ) : null}
      {when.kind === 'meets' || when.kind === 'sent in' ? (
        <div className="max-w-sm">
          <Select
            label="The record sheet"
            value={String(when.sheetId)}
            options={
              when.kind === 'meets'
                ? sheets
                : choices.sheets
                    .filter((each) => each.form)
                    .map(({ id, name }) => ({ value: String(id), words: name }))
            }
            onChange={(id) => onChange({ ...when, sheetId: Number(id) })}
          />
        </div>
      ) : null}
      {when.kind === 'meets' ? (
        <>
          <Choice
            name="again"
            checked={!when.again}
            words="Once for a record"
            onChoose={() => onChange({ ...when, again: false })}
          />
          <Choice
            name="again"
            checked={when.again}
            words="Again each time it comes to meet them anew"
            onChoose={() => onChange({ ...when, again: true })}
          />
          <p className="text-sm text-quiet">
            Records that meet them already when it is put to work are not told of.
          </p>
        </>
      ) : null}
      {when.kind === 'schedule' ? (
        <ScheduleFields when={when} choices={choices} zone={zone} onChange={onChange} />
      ) : null}
    </div>
  );
}

function ScheduleFields({
  when,
  choices,
  zone,
  onChange,
}: {
  when: Extract<When, { kind: 'schedule' }>;
  choices: AutomationChoices;
  zone: string;
  onChange: (when: When) => void;
}) {
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <WallFields wall={when.start} onChange={(start) => onChange({ ...when, start })} />
        <Select
          label="By"
          value={when.zone ?? ''}
          none="each reader’s own clock"
          options={[...new Set([zone, ...choices.zones])].map((each) => ({
            value: each,
            words: `the clock of ${each}`,
          }))}
          onChange={(next) => onChange({ ...when, zone: next === '' ? null : next })}
        />
        <Select
          label="Looking at the records in"
          value={when.sheetId === null ? '' : String(when.sheetId)}
          none="no sheet: it only speaks"
          options={choices.sheets.map(({ id, name }) => ({ value: String(id), words: name }))}
          onChange={(id) => onChange({ ...when, sheetId: id === '' ? null : Number(id) })}
        />
      </div>
      <RuleFields rule={when.rule} start={when.start} onChange={(rule) => onChange({ ...when, rule })} />
    </>
  );
}
