import {
  pointerLike,
  tellsWhatChanged,
  type Following,
  type FoundList,
} from '../../core/sheets/following.ts';
import type { SheetColumn } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { SelectPointer } from './SelectPointer.tsx';

/** Where a sheet is read, and what of the answer is what. */
export type Source = Pick<
  Following,
  'url' | 'header' | 'everyMinutes' | 'rows' | 'key' | 'gone' | 'after' | 'columns'
>;
/** What an outside source answered: its lists of records, and what may be a position. */
export interface Found {
  lists: FoundList[];
  positions: { pointer: string; sample: string }[];
}

/** A list of the answer as it is taken, with what its columns are as far as their names tell. */
export function guessed(list: FoundList, source: Source, columns: readonly SheetColumn[]): Partial<Source> {
  const pointers = list.values.map((value) => value.pointer);
  const likely = columns.flatMap((column): [string, string][] => {
    const before = source.columns[column.id];
    const pointer =
      before !== undefined && pointers.includes(before) ? before : pointerLike(column.name, pointers);
    return pointer === null ? [] : [[column.id, pointer]];
  });
  return {
    rows: list.pointer,
    key: pointers.includes(source.key)
      ? source.key
      : (pointerLike('id', pointers) ?? pointerLike('number', pointers) ?? pointers[0] ?? ''),
    columns: Object.fromEntries(likely),
  };
}

/** What of an answer is what. */
export function FoundFields({
  source,
  found,
  list,
  columns,
  onTake,
  onSet,
}: {
  source: Source;
  found: Found;
  /** The list whose rows are the records. */
  list: FoundList;
  /** The columns that are not calculated. */
  columns: readonly SheetColumn[];
  onTake: (list: FoundList) => void;
  onSet: (part: Partial<Source>) => void;
}) {
  return (
    <>
      <label className="flex flex-col gap-1">
        Its records
        <select
          className="select w-full"
          value={source.rows}
          onChange={(event) => {
            const next = found.lists.find((each) => each.pointer === event.target.value);
            if (next) onTake(next);
          }}
        >
          {found.lists.map((each) => (
            <option key={each.pointer} value={each.pointer}>
              {each.pointer || 'the whole answer'}: {count(each.rows, 'row', 'rows')}
            </option>
          ))}
        </select>
      </label>
      <SelectPointer
        label="What sets a record apart"
        value={source.key}
        values={list.values}
        none={null}
        onChange={(key) => onSet({ key })}
      />
      {tellsWhatChanged(source.url) ? (
        <>
          <SelectPointer
            label="The position in its answer"
            value={source.after}
            values={found.positions}
            none="none is told"
            onChange={(after) => onSet({ after })}
          />
          <SelectPointer
            label="Whether a record is gone"
            value={source.gone}
            values={list.values}
            none="not told of"
            onChange={(gone) => onSet({ gone })}
          />
        </>
      ) : null}
      <fieldset className="flex flex-col gap-2">
        <legend className="mb-1 font-semibold">What each column holds</legend>
        {columns.map((column) => (
          <SelectPointer
            key={column.id}
            label={column.name}
            value={source.columns[column.id] ?? ''}
            values={list.values}
            none="nothing from there: it is filled in here"
            onChange={(pointer) => {
              const others = Object.entries(source.columns).filter(([each]) => each !== column.id);
              onSet({
                columns: Object.fromEntries(pointer === '' ? others : [...others, [column.id, pointer]]),
              });
            }}
          />
        ))}
      </fieldset>
    </>
  );
}
