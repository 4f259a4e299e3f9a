import { listensToAsks, type When } from '../../core/automation/automation.ts';
import { SPANS } from '../../core/automation/condition.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import type { SheetColumn } from '../../core/sheets/sheet.ts';
import { WEEKLY } from '../../core/timing/rule.ts';
import { TimeField } from '../../ui/DateField.tsx';
import { RuleFields } from '../write/RuleFields.tsx';
import { WallFields, wallIn } from '../write/MomentFields.tsx';
import { Choice, Select } from './controls.tsx';
import { SpanField } from './SpanField.tsx';
import { AskFields, SessionFields } from './WhenOthers.tsx';

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
    case 'changes': {
      const column = sheet?.columns[0];
      return sheet && column ? { kind, sheetId: sheet.id, column: column.id } : null;
    }
    case 'date': {
      const dated = choices.sheets.find((each) => datesOf(each).length > 0);
      const [column] = dated ? datesOf(dated) : [];
      return dated && column
        ? { kind, sheetId: dated.id, column: column.id, span: -1, unit: 'days', time: '09:00', zone }
        : null;
    }
    case 'called': {
      const [hook] = choices.hooks;
      return hook ? { kind, hookId: hook.id } : null;
    }
    case 'session': {
      const [session] = choices.sessions;
      return session ? { kind, sessionId: session.id, span: -20, unit: 'minutes', edge: 'begins' } : null;
    }
    case 'ask closes':
      return { kind, asks: 'any', whose: 'own' };
    case 'ask answered':
      return { kind, asks: 'any', whose: 'own', share: 80 };
    case 'person date':
      return group ? { kind, groupId: group.id, span: 0, time: '09:00', yearly: true } : null;
  }
}

/** The columns of a sheet that hold dates. */
const datesOf = (sheet: AutomationChoices['sheets'][number]): SheetColumn[] =>
  sheet.columns.filter(({ kind }) => kind === 'date' || kind === 'moment');

const KINDS: [When['kind'], string, string][] = [
  ['joins', 'Somebody comes into a group', 'There is no group yet.'],
  ['leaves', 'Somebody goes out of a group', 'There is no group yet.'],
  ['schedule', 'A day and an hour come round', ''],
  ['meets', 'A record comes to meet conditions', 'There is no record sheet yet.'],
  ['changes', 'A column of a record changes', 'There is no record sheet yet.'],
  ['sent in', 'A form is sent in', 'No record sheet has a form yet.'],
  ['date', 'A date in a record comes near, or has passed', 'No record sheet has a column of dates yet.'],
  ['called', 'A message comes in from outside', 'No way in hands anything to automations yet.'],
  [
    'person date',
    'The day comes round on which somebody joined, or another date of theirs',
    'There is no group yet.',
  ],
  ['session', 'A session of the calendar comes near, or is over', 'No session lies ahead.'],
  ['ask closes', 'Something that was asked closes, or comes to its deadline', ''],
  ['ask answered', 'So many of those asked have answered', ''],
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
      <div className="grid gap-x-6 sm:grid-cols-2 xl:grid-cols-3">
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
      {'groupId' in when ? (
        <div className="max-w-sm">
          <Select
            label="The group"
            value={String(when.groupId)}
            options={groups}
            onChange={(id) => onChange({ ...when, groupId: Number(id) })}
          />
          {when.kind === 'joins' ? (
            <p className="mt-1 text-sm text-quiet">
              Whoever comes into several groups is greeted in each. For one greeting in all, choose a live
              group of any of them.
            </p>
          ) : null}
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
      {when.kind === 'changes' || when.kind === 'date' ? (
        <ColumnFields when={when} choices={choices} onChange={onChange} />
      ) : null}
      {when.kind === 'date' ? (
        <DateFields when={when} choices={choices} zone={zone} onChange={onChange} />
      ) : null}
      {when.kind === 'called' ? (
        <div className="max-w-sm">
          <Select
            label="The way in"
            value={String(when.hookId)}
            options={choices.hooks.map(({ id, name }) => ({ value: String(id), words: name }))}
            onChange={(id) => onChange({ ...when, hookId: Number(id) })}
          />
        </div>
      ) : null}
      {when.kind === 'person date' ? (
        <PersonDateFields when={when} dates={choices.dates} onChange={onChange} />
      ) : null}
      {when.kind === 'session' ? (
        <SessionFields when={when} sessions={choices.sessions} onChange={onChange} />
      ) : null}
      {listensToAsks(when) ? <AskFields when={when} all={choices.hearsAll} onChange={onChange} /> : null}
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

type Of<K extends When['kind']> = Extract<When, { kind: K }>;

/** Which column of which sheet it goes by. */
function ColumnFields({
  when,
  choices,
  onChange,
}: {
  when: Of<'changes' | 'date'>;
  choices: AutomationChoices;
  onChange: (when: When) => void;
}) {
  const of = (sheet: AutomationChoices['sheets'][number]): SheetColumn[] =>
    when.kind === 'date' ? datesOf(sheet) : sheet.columns;
  const sheets = choices.sheets.filter((sheet) => of(sheet).length > 0);
  const sheet = sheets.find((each) => each.id === when.sheetId);
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="The record sheet"
        value={String(when.sheetId)}
        options={sheets.map(({ id, name }) => ({ value: String(id), words: name }))}
        onChange={(id) => {
          const next = sheets.find((each) => each.id === Number(id));
          onChange({ ...when, sheetId: Number(id), column: (next && of(next)[0]?.id) ?? when.column });
        }}
      />
      <Select
        label="The column"
        value={when.column}
        options={(sheet ? of(sheet) : []).map(({ id, name }) => ({ value: id, words: name }))}
        onChange={(column) => onChange({ ...when, column })}
      />
    </div>
  );
}

function DateFields({
  when,
  choices,
  zone,
  onChange,
}: {
  when: Of<'date'>;
  choices: AutomationChoices;
  zone: string;
  onChange: (when: When) => void;
}) {
  const column = choices.sheets
    .find((each) => each.id === when.sheetId)
    ?.columns.find((each) => each.id === when.column);
  const ofDays = column?.kind !== 'moment';
  return (
    <div className="flex flex-wrap items-end gap-3">
      <SpanField span={when.span} unit={when.unit} onChange={(span) => onChange({ ...when, span })} />
      {ofDays ? (
        <>
          <TimeField label="At" value={when.time} onChange={(time) => onChange({ ...when, time })} />
          <Select
            label="By"
            value={when.zone}
            options={[...new Set([zone, ...choices.zones])].map((each) => ({
              value: each,
              words: `the clock of ${each}`,
            }))}
            onChange={(next) => onChange({ ...when, zone: next })}
          />
        </>
      ) : (
        <Select
          label="Counted in"
          value={when.unit}
          options={SPANS.map((each) => ({ value: each, words: each }))}
          onChange={(unit) => onChange({ ...when, unit: SPANS.find((each) => each === unit) ?? 'days' })}
        />
      )}
    </div>
  );
}

function PersonDateFields({
  when,
  dates,
  onChange,
}: {
  when: Of<'person date'>;
  /** Attributes that hold dates. */
  dates: readonly string[];
  onChange: (when: When) => void;
}) {
  const { of, ...joined } = when;
  const named = of && !dates.includes(of.name) ? [of.name, ...dates] : dates;
  return (
    <>
      {named.length > 0 ? (
        <label className="flex flex-col gap-1 self-start">
          Which date
          <select
            className="select w-64"
            value={of?.name ?? ''}
            onChange={(event) =>
              onChange(
                event.target.value === ''
                  ? joined
                  : { ...joined, of: { kind: 'attribute', name: event.target.value } },
              )
            }
          >
            <option value="">the day they joined</option>
            {named.map((name) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      <div className="flex flex-wrap items-end gap-3">
        <SpanField span={when.span} unit="days" onChange={(span) => onChange({ ...when, span })} />
        <TimeField
          label="At, on their own clock"
          value={when.time}
          onChange={(time) => onChange({ ...when, time })}
        />
      </div>
      <Choice
        name="yearly"
        checked={!when.yearly}
        words="Once, of that day"
        onChoose={() => onChange({ ...when, yearly: false })}
      />
      <Choice
        name="yearly"
        checked={when.yearly}
        words="Each year when it comes round"
        onChoose={() => onChange({ ...when, yearly: true })}
      />
    </>
  );
}
