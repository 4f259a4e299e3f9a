import { useRef } from 'react';

/** A button by which one file is chosen. */
export function FileButton({
  label,
  accept,
  disabled,
  onFile,
  children,
}: {
  /** What the file is, for those who do not see the button's words beside it. */
  label: string;
  accept: string;
  disabled: boolean;
  onFile: (file: File) => void;
  children: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        accept={accept}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          // So that the same file can be chosen again.
          event.target.value = '';
          if (file) onFile(file);
        }}
      />
      <button
        type="button"
        className="btn btn-outline"
        disabled={disabled}
        onClick={() => input.current?.click()}
      >
        {children}
      </button>
    </>
  );
}
