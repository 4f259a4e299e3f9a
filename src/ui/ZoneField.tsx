import { useAwake } from './useAwake.ts';

/** A choice among the zones of the zone data in use. */
export function ZoneField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (zone: string) => void;
}) {
  // The list is the browser's, so that a page does not carry it.
  const awake = useAwake();
  const zones = awake ? ['UTC', ...Intl.supportedValuesOf('timeZone')] : [];
  return (
    <label className="flex flex-col gap-1">
      {label}
      <select className="select w-full" value={value} onChange={(event) => onChange(event.target.value)}>
        {zones.includes(value) ? null : <option value={value}>{value}</option>}
        {zones.map((zone) => (
          <option key={zone} value={zone}>
            {zone}
          </option>
        ))}
      </select>
    </label>
  );
}
