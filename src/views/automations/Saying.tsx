import type { Automation } from '../../core/automation/automation.ts';
import { CALL_WORDS } from '../../core/automation/calls.ts';
import type { Fields } from '../../core/automation/condition.ts';
import { IMPORTANCES } from '../../core/content/announcement.ts';
import { FilesOf } from '../../ui/filesOf.ts';
import { Sections } from '../write/Sections.tsx';
import { Select } from './controls.tsx';

type Content = Automation['content'];

/** Puts a field into a line as words in braces. */
function InsertField({ fields, onInsert }: { fields: Fields; onInsert: (label: string) => void }) {
  return (
    <select
      className="select select-sm w-auto"
      aria-label="Put a field into the title"
      value=""
      onChange={(event) => {
        if (event.target.value !== '') onInsert(event.target.value);
      }}
    >
      <option value="">Put a field in …</option>
      {[...fields.values()].map((field) => (
        <option key={field.name} value={field.label}>
          {field.label}
        </option>
      ))}
    </select>
  );
}

/** What it says: a title and sections in whose texts fields are filled in, a table of what matched, a button. */
export function Saying({
  id,
  automation,
  fields,
  about,
  onChange,
}: {
  id: number;
  automation: Automation;
  fields: Fields;
  /** What is wrong at a field of its text. */
  about: (field: string) => string | undefined;
  onChange: (part: Partial<Automation>) => void;
}) {
  const { content } = automation;
  const set = (part: Partial<Content>): void => onChange({ content: { ...content, ...part } });
  const labels = {
    ...Object.fromEntries([...fields.values()].map((field) => [field.name, field.label])),
    ...CALL_WORDS,
  };
  const columns = [...fields.values()].filter((field) => /^(record|call|found)\./.test(field.name));
  return (
    <section aria-label="What it says" className="flex flex-col gap-4">
      <div className="flex flex-wrap items-end gap-2">
        <label className="flex grow flex-col gap-1">
          Title
          <input
            id="saying-title"
            className="input w-full font-display text-xl font-semibold"
            maxLength={150}
            dir="auto"
            value={content.title}
            onChange={(event) => set({ title: event.target.value })}
          />
        </label>
        <InsertField fields={fields} onInsert={(label) => set({ title: `${content.title}{${label}}` })} />
      </div>
      <FilesOf value={`?automation=${id}`}>
        <Sections
          // The fields that can be put in are those of what it listens to.
          key={Object.keys(labels).join()}
          sections={content.sections}
          editorKey={0}
          about={about}
          fields={labels}
          onChange={(sections) => set({ sections })}
        />
      </FilesOf>
      {columns.length > 0 ? (
        <TableFields automation={automation} columns={columns} onChange={onChange} />
      ) : null}
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="Importance"
          value={content.importance}
          options={IMPORTANCES.map((each) => ({ value: each, words: each }))}
          onChange={(importance) =>
            set({ importance: IMPORTANCES.find((each) => each === importance) ?? 'routine' })
          }
        />
        <label className="flex flex-col gap-1">
          Button, if any
          <input
            className="input w-44"
            maxLength={60}
            value={content.button?.label ?? ''}
            onChange={(event) =>
              set({
                button:
                  event.target.value === '' && (content.button?.url ?? '') === ''
                    ? null
                    : { label: event.target.value, url: content.button?.url ?? '' },
              })
            }
          />
        </label>
        <label className="flex grow flex-col gap-1">
          Its link
          <input
            className="input w-full"
            maxLength={2000}
            value={content.button?.url ?? ''}
            onChange={(event) =>
              set({
                button:
                  event.target.value === '' && (content.button?.label ?? '') === ''
                    ? null
                    : { label: content.button?.label ?? '', url: event.target.value },
              })
            }
          />
        </label>
      </div>
    </section>
  );
}

/** Which columns of what matched stand in a table under the text, in which order, and how many rows at most. */
function TableFields({
  automation,
  columns,
  onChange,
}: {
  automation: Automation;
  columns: { name: string; label: string }[];
  onChange: (part: Partial<Automation>) => void;
}) {
  const { table } = automation;
  const shape = table ?? { columns: [], order: null, most: 20 };
  const toggle = (name: string, on: boolean): void => {
    const next = on ? [...shape.columns, name] : shape.columns.filter((each) => each !== name);
    onChange({ table: next.length === 0 ? null : { ...shape, columns: next.slice(0, 8) } });
  };
  return (
    <fieldset className="border-t border-base-300 pt-3">
      <legend className="font-semibold">A table of what matched, or a list, under the text</legend>
      <div className="flex flex-wrap gap-x-5">
        {columns.map((column) => (
          <label key={column.name} className="flex min-h-10 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm checkbox-primary"
              checked={shape.columns.includes(column.name)}
              onChange={(event) => toggle(column.name, event.target.checked)}
            />
            <span dir="auto">{column.label}</span>
          </label>
        ))}
      </div>
      {table ? (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <Select
            label="It stands as"
            value={table.as ?? 'table'}
            options={[
              { value: 'table', words: 'a table' },
              { value: 'list', words: 'a list, a line for each' },
            ]}
            onChange={(as) => onChange({ table: { ...table, as: as === 'list' ? 'list' : 'table' } })}
          />
          <Select
            label="In the order of"
            value={table.order?.field ?? ''}
            none="the sheet"
            options={columns.map((column) => ({ value: column.name, words: column.label }))}
            onChange={(field) =>
              onChange({
                table: {
                  ...table,
                  order: field === '' ? null : { field, descending: table.order?.descending ?? true },
                },
              })
            }
          />
          {table.order ? (
            <Select
              label="Beginning with"
              value={table.order.descending ? 'most' : 'least'}
              options={[
                { value: 'most', words: 'the most, or the last' },
                { value: 'least', words: 'the least, or the first' },
              ]}
              onChange={(way) =>
                onChange({
                  table: { ...table, order: { field: table.order?.field ?? '', descending: way === 'most' } },
                })
              }
            />
          ) : null}
          <label className="flex flex-col gap-1">
            Rows at most
            <input
              type="number"
              className="input w-24"
              min={1}
              max={100}
              value={table.most}
              onChange={(event) => {
                const most = Math.trunc(Number(event.target.value));
                if (most >= 1 && most <= 100) onChange({ table: { ...table, most } });
              }}
            />
          </label>
        </div>
      ) : null}
    </fieldset>
  );
}
