import { useState } from 'react';

/** A line of text that is saved when its button is pressed. */
export function TextSetting({
  label,
  value,
  disabled,
  number = false,
  problem,
  onSave,
}: {
  label: string;
  value: string;
  disabled: boolean;
  number?: boolean;
  problem: string | undefined;
  onSave: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  const [last, setLast] = useState(value);
  if (last !== value) {
    setLast(value);
    setText(value);
  }
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className={`flex flex-col gap-1 ${number ? '' : 'grow'}`}>
        {label}
        <input
          className={`input ${number ? 'w-28' : 'w-full'}`}
          type={number ? 'number' : 'text'}
          value={text}
          disabled={disabled}
          aria-invalid={problem !== undefined}
          onChange={(event) => setText(event.target.value)}
          dir="auto"
        />
        {problem === undefined ? null : <span className="text-error">{problem}</span>}
      </label>
      {disabled ? null : (
        <button
          type="button"
          className="btn btn-outline"
          disabled={text === value}
          onClick={() => onSave(text)}
        >
          Save
        </button>
      )}
    </div>
  );
}
