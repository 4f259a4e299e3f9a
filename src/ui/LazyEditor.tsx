import { lazy, Suspense, useState, type ComponentProps } from 'react';
import { isBlankDocument, type Doc } from '../core/content/document.ts';
import { plainWords } from '../core/content/text.ts';
import type { Editor } from './Editor.tsx';

const Loaded = lazy(() => import('./Editor.tsx').then((module) => ({ default: module.Editor })));

const documentOf = (text: string): Doc => ({
  type: 'doc',
  content: text
    .split('\n')
    .map((line) =>
      line === '' ? { type: 'paragraph' } : { type: 'paragraph', content: [{ type: 'text', text: line }] },
    ),
});

/**
 * The editor, fetched when somebody begins to write: most readers of a page never do. Until it is there one writes in a plain
 * field, and what one has written by then stands in it.
 */
export function LazyEditor(props: ComponentProps<typeof Editor>) {
  const { document, label, onChange } = props;
  const [written] = useState(!isBlankDocument(document));
  const [begun, setBegun] = useState(false);
  const plain = (
    <label className="flex flex-col gap-1">
      {label}
      <textarea
        className="textarea w-full"
        rows={3}
        dir="auto"
        value={plainWords(document)}
        onFocus={() => setBegun(true)}
        onChange={(event) => {
          setBegun(true);
          onChange(documentOf(event.target.value));
        }}
      />
    </label>
  );
  if (!written && !begun) return plain;
  return (
    <Suspense fallback={plain}>
      <Loaded {...props} focused={begun} />
    </Suspense>
  );
}
