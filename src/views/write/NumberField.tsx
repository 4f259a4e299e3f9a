import { useId } from 'react';

/** A whole number within bounds; what is being typed and is no such number changes nothing. */
export function NumberField({
  label,
  value,
  min,
  max,
  onChange,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  onChange: (value: number) => void;
}) {
  const id = useId();
  return (
    <span className="flex flex-col gap-1">
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        type="number"
        className="input w-28"
        min={min}
        max={max}
        defaultValue={value}
        onChange={(event) => {
          const n = Math.trunc(Number(event.target.value));
          if (event.target.value !== '' && n >= min && n <= max) onChange(n);
        }}
      />
    </span>
  );
}
