import type { AutomationChoices } from '../../core/automation/choices.ts';
import type { Fields } from '../../core/automation/condition.ts';

export const Choice = ({
  name,
  checked,
  words,
  onChoose,
}: {
  name: string;
  checked: boolean;
  words: string;
  onChoose: () => void;
}) => (
  <label className="flex min-h-11 cursor-pointer items-center gap-2">
    <input type="radio" name={name} className="radio radio-primary" checked={checked} onChange={onChoose} />
    {words}
  </label>
);

export const Select = ({
  label,
  value,
  options,
  none,
  onChange,
}: {
  label: string;
  value: string;
  options: readonly { value: string; words: string }[];
  /** What stands for none of them, where that can be chosen. */
  none?: string;
  onChange: (value: string) => void;
}) => (
  <label className="flex flex-col gap-1">
    {label}
    <select className="select w-full" value={value} onChange={(event) => onChange(event.target.value)}>
      {none === undefined ? null : <option value="">{none}</option>}
      {value !== '' && !options.some((each) => each.value === value) ? (
        <option value={value}>what is not there any more</option>
      ) : null}
      {options.map((each) => (
        <option key={each.value} value={each.value}>
          {each.words}
        </option>
      ))}
    </select>
  </label>
);

export const byId = (list: readonly { id: number; name: string }[]): { value: string; words: string }[] =>
  list.map(({ id, name }) => ({ value: String(id), words: name }));
/** Fields of a record, or of a message that came in. */
export const ofRecord = (name: string): boolean => name.startsWith('record.') || name.startsWith('call.');

export const ofFields = (
  fields: Fields,
  which: (name: string) => boolean,
): { value: string; words: string }[] =>
  [...fields.values()]
    .filter((field) => which(field.name))
    .map(({ name, label }) => ({ value: name, words: label }));
/** Boards to be ticked; those that take nothing that comes by itself say so. */
export function Boards({
  boards,
  chosen,
  onChange,
}: {
  boards: AutomationChoices['boards'];
  chosen: readonly number[];
  onChange: (ids: number[]) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1">On boards</legend>
      <div className="grid gap-x-6 sm:grid-cols-2">
        {boards.map((board) => (
          <label key={board.id} className="flex min-h-10 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={chosen.includes(board.id)}
              disabled={!board.automations && !chosen.includes(board.id)}
              onChange={(event) =>
                onChange(
                  event.target.checked ? [...chosen, board.id] : chosen.filter((each) => each !== board.id),
                )
              }
            />
            <span dir="auto">
              {board.name}
              {board.automations ? '' : ' (takes nothing that comes by itself)'}
            </span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
