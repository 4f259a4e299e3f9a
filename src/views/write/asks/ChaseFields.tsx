import { USUAL_CHASE, type Chase } from '../../../core/asks/chase.ts';
import { NumberField } from '../NumberField.tsx';

/** Whether and how those who have not answered are followed up. */
export function ChaseFields({
  chase,
  hasDeadline,
  onChange,
}: {
  chase: Chase | null;
  hasDeadline: boolean;
  onChange: (chase: Chase | null) => void;
}) {
  const set = (part: Partial<Chase>): void => onChange({ ...(chase ?? USUAL_CHASE), ...part });
  return (
    <div>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={chase !== null}
          onChange={(event) => onChange(event.target.checked ? USUAL_CHASE : null)}
        />
        and chase those who have not
      </label>
      {chase ? (
        <div className="ml-8 flex flex-col gap-3 border-l-2 border-base-300 pl-4">
          <div className="flex flex-wrap items-end gap-3">
            <NumberField
              label="First, in hours"
              value={chase.hours}
              min={1}
              max={720}
              onChange={(hours) => set({ hours })}
            />
            <label className="flex flex-col gap-1">
              Counted
              <select
                className="select"
                value={chase.from}
                onChange={(event) => set({ from: event.target.value === 'before' ? 'before' : 'after' })}
              >
                <option value="after">after it has gone out</option>
                <option value="before" disabled={!hasDeadline}>
                  before the deadline
                </option>
              </select>
            </label>
            <NumberField
              label="At most so many times"
              value={chase.most}
              min={1}
              max={6}
              onChange={(most) => set({ most })}
            />
            <NumberField
              label="Hours apart"
              value={chase.every}
              min={1}
              max={720}
              onChange={(every) => set({ every })}
            />
          </div>
          <label className="flex flex-col gap-1">
            What it says
            <textarea
              className="textarea w-full"
              rows={2}
              maxLength={600}
              placeholder="Left empty: a friendly line that they have not answered yet."
              value={chase.text}
              onChange={(event) => set({ text: event.target.value })}
            />
          </label>
          <label className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={chase.owners}
              onChange={(event) => set({ owners: event.target.checked })}
            />
            and at last tell the owners of their groups who is missing
          </label>
          <p className="text-sm text-quiet">
            Whoever answers is chased no more. Quiet hours are kept to, as with any send.
          </p>
        </div>
      ) : null}
    </div>
  );
}
