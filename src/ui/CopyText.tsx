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
    <div role="group" aria-label={label} className="flex flex-wrap items-start gap-2">
      <pre className="min-w-0 flex-1 border border-base-300 bg-base-100 p-2 text-sm break-all whitespace-pre-wrap">
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
