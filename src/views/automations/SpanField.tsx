import { Select } from './controls.tsx';

/** How long before or after: a number and the side. */
export function SpanField({
  span,
  unit,
  none = 'on the day itself, or after',
  onChange,
}: {
  span: number;
  /** What is counted. */
  unit: string;
  /** What none at all is. */
  none?: string;
  onChange: (span: number) => void;
}) {
  const before = span < 0;
  return (
    <>
      <label className="flex flex-col gap-1">
        How many {unit}
        <input
          type="number"
          min={0}
          max={3650}
          className="input w-28"
          value={Math.abs(span)}
          onChange={(event) => {
            const many = Math.min(3650, Math.max(0, Math.trunc(Number(event.target.value))));
            onChange(before ? -many : many);
          }}
        />
      </label>
      <Select
        label="Before or after"
        value={before ? 'before' : 'after'}
        options={[
          { value: 'before', words: 'before' },
          { value: 'after', words: span === 0 ? none : 'after' },
        ]}
        // None before and none after are the same: the first before is one.
        onChange={(side) => onChange(side === 'before' ? -Math.max(1, Math.abs(span)) : Math.abs(span))}
      />
    </>
  );
}
