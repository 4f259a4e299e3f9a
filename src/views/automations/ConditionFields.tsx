import { QueryBuilder, type RuleGroupType, type RuleType, type ValueEditorProps } from 'react-querybuilder';
import {
  isAgainst,
  SPANS,
  testsFor,
  TESTS,
  type Against,
  type Condition,
  type FieldInfo,
  type Fields,
} from '../../core/automation/condition.ts';

const EMPTY: Against = { kind: 'value', value: '' };

/** A condition as the rows of the builder; one test alone stands in a group of its own. */
function rowsOf(condition: Condition): RuleGroupType {
  const row = (each: Condition): RuleType | RuleGroupType =>
    each.kind === 'test'
      ? { field: each.field, operator: each.test, value: each.against }
      : { combinator: each.kind === 'all' ? 'and' : 'or', rules: each.of.map(row) };
  return condition.kind === 'test'
    ? { combinator: 'and', rules: [row(condition)] }
    : { combinator: condition.kind === 'all' ? 'and' : 'or', rules: condition.of.map(row) };
}

const isAgainstValue = (value: unknown): value is Against =>
  typeof value === 'object' && value !== null && 'kind' in value;

/** The rows of the builder as a condition. */
function conditionOf(group: RuleGroupType): Condition {
  return {
    kind: group.combinator === 'or' ? 'any' : 'all',
    of: group.rules.map((row): Condition => {
      if ('rules' in row) return conditionOf(row);
      const test = TESTS.find((each) => each === row.operator) ?? 'is filled in';
      return {
        kind: 'test',
        field: row.field,
        test,
        against: isAgainst(test) && isAgainstValue(row.value) ? row.value : EMPTY,
      };
    }),
  };
}

type Context = { fields: FieldInfo[] };

/** What a field is held against: a value, another field or a share of it, or now and so long. */
function AgainstEditor({ field, operator, value, context, ...editor }: ValueEditorProps) {
  const { fields } = context as Context;
  const info = fields.find((each) => each.name === field);
  const test = TESTS.find((each) => each === operator);
  if (!info || !test || !isAgainst(test)) return null;
  const against = isAgainstValue(value) ? value : EMPTY;
  const set = (next: Against): void => editor.handleOnChange(next);
  const others = fields.filter((each) => each.kind === info.kind && each.name !== info.name);
  const dated = info.kind === 'date' || info.kind === 'moment';
  const kinds: [Against['kind'], string][] = [
    ['value', 'this'],
    ...(others.length > 0 ? ([['field', 'another column']] as [Against['kind'], string][]) : []),
    ...(dated ? ([['now', 'the present']] as [Against['kind'], string][]) : []),
  ];
  return (
    <span className="flex flex-wrap items-center gap-2">
      {kinds.length > 1 ? (
        <select
          className="select w-auto"
          aria-label="Held against"
          value={against.kind}
          onChange={(event) => {
            const kind = event.target.value;
            if (kind === 'field') set({ kind, field: others[0]?.name ?? '', share: 100 });
            else if (kind === 'now') set({ kind, span: 0, unit: 'days' });
            else set(EMPTY);
          }}
        >
          {kinds.map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </select>
      ) : null}
      <AgainstDetail against={against} info={info} others={others} onChange={set} />
    </span>
  );
}

function AgainstDetail({
  against,
  info,
  others,
  onChange,
}: {
  against: Against;
  info: FieldInfo;
  others: FieldInfo[];
  onChange: (against: Against) => void;
}) {
  switch (against.kind) {
    case 'value': {
      const choices = info.kind === 'yes or no' ? ['yes', 'no'] : info.choices;
      return choices.length > 0 ? (
        <select
          className="select w-auto"
          aria-label="Value"
          value={against.value}
          onChange={(event) => onChange({ kind: 'value', value: event.target.value })}
        >
          <option value="">choose …</option>
          {choices.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      ) : (
        <input
          className="input w-40"
          aria-label="Value"
          type={info.kind === 'number' ? 'number' : info.kind === 'date' ? 'date' : 'text'}
          step="any"
          value={against.value}
          onChange={(event) => onChange({ kind: 'value', value: event.target.value })}
        />
      );
    }
    case 'field':
      return (
        <>
          {info.kind === 'number' ? (
            <label className="flex items-center gap-1">
              <input
                type="number"
                className="input w-24"
                aria-label="Share in percent"
                min={0.1}
                step="any"
                value={against.share}
                onChange={(event) => {
                  const share = Number(event.target.value);
                  if (share > 0) onChange({ ...against, share });
                }}
              />
              % of
            </label>
          ) : null}
          <select
            className="select w-auto"
            aria-label="Column"
            value={against.field}
            onChange={(event) => onChange({ ...against, field: event.target.value })}
          >
            {others.map((each) => (
              <option key={each.name} value={each.name}>
                {each.label}
              </option>
            ))}
          </select>
        </>
      );
    case 'now':
      return (
        <span className="flex items-center gap-1">
          <input
            type="number"
            className="input w-24"
            aria-label="How long"
            value={Math.abs(against.span)}
            onChange={(event) => {
              const n = Math.trunc(Number(event.target.value));
              if (n >= 0 && n <= 100_000) onChange({ ...against, span: against.span < 0 ? -n : n });
            }}
          />
          <select
            className="select w-auto"
            aria-label="Unit"
            value={against.unit}
            onChange={(event) =>
              onChange({ ...against, unit: SPANS.find((each) => each === event.target.value) ?? 'days' })
            }
          >
            {SPANS.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
          <select
            className="select w-auto"
            aria-label="Before or after now"
            value={against.span < 0 ? 'ago' : 'from now'}
            onChange={(event) =>
              onChange({ ...against, span: Math.abs(against.span) * (event.target.value === 'ago' ? -1 : 1) })
            }
          >
            <option>from now</option>
            <option>ago</option>
          </select>
        </span>
      );
  }
}

const CLASSES = {
  ruleGroup: 'flex flex-col gap-3 border-l-2 border-base-300 pl-3',
  header: 'flex flex-wrap items-center gap-2',
  body: 'flex flex-col gap-3',
  combinators: 'select w-auto',
  rule: 'flex flex-wrap items-center gap-2',
  fields: 'select w-auto',
  operators: 'select w-auto',
  addRule: 'btn btn-outline btn-sm',
  addGroup: 'btn btn-ghost btn-sm',
  removeRule: 'btn btn-ghost btn-sm',
  removeGroup: 'btn btn-ghost btn-sm',
};

/** When something holds, as rows of tests: all or any of them, in groups. */
export function ConditionFields({
  condition,
  fields,
  onChange,
}: {
  condition: Condition;
  fields: Fields;
  onChange: (condition: Condition) => void;
}) {
  const all = [...fields.values()].filter((field) => !field.name.startsWith('run.'));
  if (all.length === 0) return <p>There is nothing to test: choose a record sheet with columns first.</p>;
  return (
    <QueryBuilder
      fields={all.map(({ name, label }) => ({ name, label }))}
      query={rowsOf(condition)}
      onQueryChange={(query) => onChange(conditionOf(query))}
      getOperators={(name) =>
        testsFor(all.find((each) => each.name === name)?.kind ?? 'text').map((test) => ({
          name: test,
          label: test,
        }))
      }
      getDefaultOperator={(name) =>
        testsFor(all.find((each) => each.name === name)?.kind ?? 'text')[0] ?? 'is'
      }
      getDefaultValue={() => EMPTY}
      combinators={[
        { name: 'and', label: 'all of these hold' },
        { name: 'or', label: 'any of these holds' },
      ]}
      controlElements={{ valueEditor: AgainstEditor }}
      controlClassnames={CLASSES}
      context={{ fields: all }}
      resetOnFieldChange
      suppressStandardClassnames
      translations={{
        addRule: { label: 'Add a test', title: 'Add a test' },
        addGroup: { label: 'Add a group', title: 'Add a group of tests' },
        removeRule: { label: 'Take out', title: 'Take this test out' },
        removeGroup: { label: 'Take out', title: 'Take this group out' },
        fields: { title: 'Column' },
        operators: { title: 'Test' },
        combinators: { title: 'All or any' },
      }}
    />
  );
}
