import { useId, useState } from 'react';
import { cellWords } from '../../core/sheets/cell.ts';
import { calculator, formulaProblems, FUNCTIONS } from '../../core/sheets/formula.ts';
import { withIds, withNames } from '../../core/sheets/formulaNames.ts';
import { MAX_FORMULA, type Cells, type SheetColumn } from '../../core/sheets/sheet.ts';

/** What is wrong with a formula as it is written, or what it gives of a record. */
function outcome(
  column: SheetColumn,
  columns: readonly SheetColumn[],
  written: string,
  sample: Cells | null,
  zone: string,
): { problem: string } | { words: string } {
  const read = withIds(written, columns);
  if ('missing' in read) return { problem: `No column is called “${read.missing}”.` };
  if (read.formula === '') return { words: '' };
  const now = columns.map((each) => (each.id === column.id ? { ...each, formula: read.formula } : each));
  const problem = formulaProblems(now).find(({ at }) => now[at]?.id === column.id)?.problem;
  if (problem !== undefined) return { problem };
  if (!sample) return { words: 'It can be calculated. There is no record yet to show it on.' };
  const value = calculator(now)(sample)[column.id] ?? '';
  return {
    words:
      value === ''
        ? 'Of the newest record: nothing, since something it is calculated from is empty there.'
        : `Of the newest record: ${cellWords(column, value, zone)}.`,
  };
}

/** What a column is calculated by: other columns by their names in square brackets, with what it gives of a record. */
export function FormulaField({
  column,
  columns,
  sample,
  zone,
  onChange,
}: {
  column: SheetColumn;
  columns: readonly SheetColumn[];
  /** A record that it is shown on; null where there is none. */
  sample: Cells | null;
  zone: string;
  onChange: (formula: string) => void;
}) {
  const id = useId();
  // What is being written stays as it is written; otherwise it follows the columns' names.
  const [writing, setWriting] = useState<string>();
  const shown = writing ?? withNames(column.formula ?? '', columns);
  const said = outcome(column, columns, shown, sample, zone);
  const set = (text: string): void => {
    setWriting(text);
    const read = withIds(text, columns);
    onChange('formula' in read ? read.formula : text);
  };
  const others = columns.filter((each) => each.id !== column.id && each.name.trim() !== '');
  return (
    <div className="flex grow basis-full flex-col gap-1">
      <label className="flex flex-col gap-1 text-sm">
        Calculated as
        <input
          className="input w-full font-mono"
          maxLength={MAX_FORMULA}
          spellCheck={false}
          autoComplete="off"
          aria-invalid={'problem' in said}
          aria-describedby={`${id}-said`}
          placeholder={others[0] ? `[${others[0].name}] * 2` : ''}
          value={shown}
          onChange={(event) => set(event.target.value)}
          onBlur={() => setWriting(undefined)}
        />
      </label>
      <p
        id={`${id}-said`}
        role="status"
        className={'problem' in said ? 'text-sm text-error' : 'text-sm text-quiet'}
      >
        {'problem' in said ? said.problem : said.words}
      </p>
      <details className="text-sm">
        <summary className="min-h-8 cursor-pointer py-1">What can stand in it</summary>
        <p>
          Columns by their names in square brackets: {others.map(({ name }) => `[${name}]`).join(', ')}.
          Signs: + − * / and brackets; comparisons &lt; &lt;= &gt; &gt;= == != ; and && or || ; a choice by
          <code> comparison ? this : that</code>; text in quotes.
        </p>
        <ul className="mt-1 columns-1 sm:columns-2">
          {FUNCTIONS.map(({ usage, does }) => (
            <li key={usage}>
              <code>{usage}</code> {does}
            </li>
          ))}
        </ul>
        <p className="mt-1">
          Where a number, a date, or a yes or no that it reads is empty, so is the result. It is an expression
          of CEL, the Common Expression Language.
        </p>
      </details>
    </div>
  );
}
