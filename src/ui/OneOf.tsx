import type { ReactNode } from 'react';
import { ToggleButton, ToggleButtonGroup } from 'react-aria-components';
import { useAwake } from './useAwake.ts';

const KINDS = {
  /** Buttons that are joined; the chosen one is filled. */
  joined: {
    group: 'join flex-wrap',
    button: (chosen: boolean) => `btn join-item max-sm:px-2 ${chosen ? 'btn-neutral' : 'btn-outline'}`,
  },
  /** Words in a row of controls; the chosen one has a ground. */
  words: {
    group: 'flex flex-wrap',
    button: (chosen: boolean) =>
      `min-h-10 cursor-pointer px-2.5 first-letter:uppercase hover:bg-base-200 ${chosen ? 'bg-base-300 font-semibold' : ''}`,
  },
};

/**
 * One of a few choices, always one of them: a radio group with one tab stop, in which the arrow keys go from one to the
 * next and the space bar chooses.
 */
export function OneOf<T extends string>({
  label,
  options,
  value,
  onChange,
  kind = 'joined',
  className = '',
}: {
  label: string;
  options: readonly { value: T; words: ReactNode }[];
  value: T;
  onChange: (value: T) => void;
  kind?: keyof typeof KINDS;
  className?: string;
}) {
  const awake = useAwake();
  const { group, button } = KINDS[kind];
  return (
    <ToggleButtonGroup
      aria-label={label}
      selectionMode="single"
      disallowEmptySelection
      isDisabled={!awake}
      selectedKeys={[value]}
      onSelectionChange={(keys) => {
        const found = options.find((option) => keys.has(option.value));
        if (found && found.value !== value) onChange(found.value);
      }}
      className={`${group} ${className}`}
    >
      {options.map((option) => (
        <ToggleButton key={option.value} id={option.value} className={({ isSelected }) => button(isSelected)}>
          {option.words}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}
