import type { SheetColumn } from '../../../core/sheets/sheet.ts';

const begin = (element: HTMLInputElement | null): void => {
  element?.focus();
  element?.select();
};

const HINTS: Partial<Record<SheetColumn['kind'], string>> = {
  date: '2026-12-31',
  moment: '2026-12-31 09:00',
  link: 'https://',
};

/** What is written or chosen in a cell of the grid. */
export function CellEditor({
  column,
  value,
  onChange,
}: {
  column: SheetColumn;
  value: string;
  /** `commit`: it is chosen, and the editor closes. */
  onChange: (value: string, commit: boolean) => void;
}) {
  const choices =
    column.kind === 'yes or no' ? ['yes', 'no'] : column.kind === 'choice' ? column.choices : null;
  return choices ? (
    <select
      className="record-editor"
      aria-label={column.name}
      ref={(element) => element?.focus()}
      value={value}
      onChange={(event) => onChange(event.target.value, true)}
    >
      <option value=""></option>
      {choices.map((each) => (
        <option key={each}>{each}</option>
      ))}
    </select>
  ) : (
    <input
      className="record-editor"
      aria-label={column.name}
      ref={begin}
      defaultValue={value}
      placeholder={HINTS[column.kind] ?? ''}
      inputMode={column.kind === 'number' ? 'decimal' : 'text'}
      dir="auto"
      onChange={(event) => onChange(event.target.value, false)}
    />
  );
}
