import { useEffect, useState } from 'react';
import { useDebounce } from 'use-debounce';
import { conditionProblems, type Condition } from '../../core/automation/condition.ts';
import type { SheetColumn } from '../../core/sheets/sheet.ts';
import { CHANGED, fieldsOfSheet, type SheetOrder, type SheetView } from '../../core/sheets/view.ts';
import { Notice } from '../../ui/Notice.tsx';
import { ConditionFields } from '../automations/ConditionFields.tsx';

export type ViewPhrase = 'which' | 'order' | 'columns';

interface Panel {
  view: SheetView;
  columns: readonly SheetColumn[];
  onChange: (part: Partial<SheetView>) => void;
}

const SETTLED_MS = 400;

/** Which records are shown: what is half written is not looked for. */
function Which({ view, columns, onChange }: Panel) {
  const fields = fieldsOfSheet(columns);
  const [condition, setCondition] = useState<Condition>(view.if);
  const [steady] = useDebounce(condition, SETTLED_MS);
  const [problem] = conditionProblems(condition, fields);
  const whole = conditionProblems(steady, fields).length === 0;
  useEffect(() => {
    if (whole && steady !== view.if) onChange({ if: steady });
    // It is told once it is settled, and not again when the page is drawn anew.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [steady, whole]);
  return (
    <div className="flex flex-col gap-3">
      <ConditionFields condition={condition} fields={fields} onChange={setCondition} />
      {problem === undefined ? null : <Notice tone="info">{problem}</Notice>}
    </div>
  );
}

/** By which columns records are ordered: up to three, the first counts most. */
function Order({ view, columns, onChange }: Panel) {
  const { order } = view;
  const names = [
    ...columns.map(({ id, name }) => ({ id, name })),
    { id: CHANGED, name: 'when it was changed' },
  ];
  const free = names.filter(({ id }) => !order.some(({ column }) => column === id));
  const set = (at: number, part: Partial<SheetOrder>): void =>
    onChange({ order: order.map((each, i) => (i === at ? { ...each, ...part } : each)) });
  return (
    <div className="flex flex-col gap-3">
      {order.length === 0 ? <p>The newest stand first.</p> : null}
      {order.map((each, at) => (
        <p key={each.column} className="flex flex-wrap items-center gap-2">
          {at === 0 ? 'By' : 'then by'}
          <select
            className="select w-auto max-w-full"
            aria-label={`Column ${at + 1}`}
            value={each.column}
            onChange={(event) => set(at, { column: event.target.value })}
          >
            {names
              .filter(({ id }) => id === each.column || free.some((other) => other.id === id))
              .map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
          </select>
          <select
            className="select w-auto"
            aria-label={`Direction ${at + 1}`}
            value={each.turned ? 'backwards' : 'forwards'}
            onChange={(event) => set(at, { turned: event.target.value === 'backwards' })}
          >
            <option>forwards</option>
            <option>backwards</option>
          </select>
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => onChange({ order: order.filter((_, i) => i !== at) })}
          >
            Take out
          </button>
        </p>
      ))}
      {order.length < 3 && free[0] ? (
        <button
          type="button"
          className="btn btn-outline btn-sm self-start"
          onClick={() => onChange({ order: [...order, { column: free[0]?.id ?? CHANGED, turned: false }] })}
        >
          {order.length === 0 ? 'Order by a column' : 'And then by another'}
        </button>
      ) : null}
    </div>
  );
}

/** Which columns are shown; one stays. */
function Columns({ view, columns, onChange }: Panel) {
  const shown = columns.length - view.hidden.length;
  return (
    <div className="grid grid-cols-[repeat(auto-fill,minmax(12rem,1fr))] gap-x-4">
      {columns.map(({ id, name }) => {
        const hidden = view.hidden.includes(id);
        return (
          <label key={id} className="flex min-h-11 cursor-pointer items-center gap-2" dir="auto">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={!hidden}
              disabled={!hidden && shown === 1}
              onChange={() =>
                onChange({
                  hidden: hidden ? view.hidden.filter((each) => each !== id) : [...view.hidden, id],
                })
              }
            />
            {name}
          </label>
        );
      })}
    </div>
  );
}

export function ViewPanel({ which, ...panel }: Panel & { which: ViewPhrase }) {
  switch (which) {
    case 'which':
      return <Which {...panel} />;
    case 'order':
      return <Order {...panel} />;
    case 'columns':
      return <Columns {...panel} />;
  }
}
