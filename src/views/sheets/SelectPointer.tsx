/** A choice of a value in what a source answers, each shown with what the first row holds. */
export function SelectPointer({
  label,
  value,
  values,
  none,
  onChange,
}: {
  label: string;
  value: string;
  values: readonly { pointer: string; sample: string }[];
  /** What no choice means; null where there must be one. */
  none: string | null;
  onChange: (pointer: string) => void;
}) {
  const known = values.some((each) => each.pointer === value) || value === '';
  return (
    <label className="grid items-center gap-x-3 sm:grid-cols-[12rem_1fr]">
      <span dir="auto">{label}</span>
      <select className="select w-full" value={value} onChange={(event) => onChange(event.target.value)}>
        {none === null ? null : <option value="">{none}</option>}
        {known ? null : <option value={value}>{value}: not there now</option>}
        {values.map(({ pointer, sample }) => (
          <option key={pointer} value={pointer}>
            {pointer || 'the row itself'}
            {sample === '' ? '' : `: ${sample}`}
          </option>
        ))}
      </select>
    </label>
  );
}
