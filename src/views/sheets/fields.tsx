import { useId } from 'react';
import type { SheetColumn } from '../../core/sheets/sheet.ts';
import { DateField } from '../../ui/DateField.tsx';

/** What is typed or chosen for a cell, by the kind of its column. */
export function CellField({
  column,
  value,
  help,
  required = false,
  problem,
  onChange,
}: {
  column: SheetColumn;
  value: string;
  help?: string;
  required?: boolean;
  problem: string | undefined;
  onChange: (value: string) => void;
}) {
  const id = useId();
  const label = `${column.name}${column.unit === '' ? '' : ` (${column.unit})`}${required ? '' : ', if any'}`;
  const given = {
    id,
    'aria-invalid': problem !== undefined,
    'aria-describedby': `${id}-help`,
  };
  const options =
    column.kind === 'yes or no' ? ['yes', 'no'] : column.kind === 'choice' ? column.choices : null;
  if (column.kind === 'date')
    return (
      <div className="flex flex-col gap-1">
        <DateField label={label} value={value} onChange={onChange} />
        <Help id={`${id}-help`} help={help} problem={problem} />
      </div>
    );
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} dir="auto">
        {label}
      </label>
      {options ? (
        <select
          {...given}
          className="select w-full"
          value={value}
          onChange={(event) => onChange(event.target.value)}
        >
          <option value=""></option>
          {options.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      ) : (
        <input
          {...given}
          className="input w-full"
          inputMode={column.kind === 'number' ? 'decimal' : column.kind === 'link' ? 'url' : 'text'}
          placeholder={column.kind === 'moment' ? '2026-12-31 09:00' : ''}
          maxLength={2000}
          dir="auto"
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      <Help id={`${id}-help`} help={help} problem={problem} />
    </div>
  );
}

const Help = ({
  id,
  help,
  problem,
}: {
  id: string;
  help: string | undefined;
  problem: string | undefined;
}) => (
  <span id={id} className={problem === undefined ? 'text-sm text-quiet' : 'text-error'}>
    {problem ?? help ?? ''}
  </span>
);
