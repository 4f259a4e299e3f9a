import { useState } from 'react';

/** A text that is meant to be taken elsewhere, with a button that copies it. */
export function CopyText({ text, label }: { text: string; label: string }) {
  const [copied, setCopied] = useState<'not' | 'yes' | 'refused'>('not');
  const copy = (): void => {
    navigator.clipboard.writeText(text).then(
      () => setCopied('yes'),
      () => setCopied('refused'),
    );
  };
  return (
    <div className="flex flex-wrap items-start gap-2">
      {/* What can be moved in by itself can be reached by keyboard. */}
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex */}
      <pre
        className="max-h-60 min-w-0 grow overflow-auto bg-base-200 p-2 text-sm"
        tabIndex={0}
        aria-label={label}
      >
        {text}
      </pre>
      <button type="button" className="btn btn-outline btn-sm" onClick={copy}>
        {copied === 'yes' ? 'Copied' : 'Copy'}
      </button>
      <span role="status" className="w-full text-sm text-quiet empty:hidden">
        {copied === 'refused' ? 'This browser does not copy by itself. Mark the text, and copy it.' : ''}
      </span>
    </div>
  );
}
