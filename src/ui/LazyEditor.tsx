import { lazy, Suspense, useRef, useState, type ComponentProps } from 'react';
import { flushSync } from 'react-dom';
import type { Editor as TiptapEditor, JSONContent } from '@tiptap/core';
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
  const [ready, setReady] = useState(false);
  const [words, setWords] = useState(() => plainWords(document));
  const field = useRef<HTMLTextAreaElement>(null);
  /** The editor takes the place of the field, its text and the cursor in one step: no key pressed meanwhile is lost. */
  const takeOver = (editor: TiptapEditor): void => {
    const writing = field.current !== null && window.document.activeElement === field.current;
    if (!written && field.current?.value)
      editor.commands.setContent(documentOf(field.current.value) as JSONContent, { emitUpdate: false });
    flushSync(() => setReady(true));
    if (!writing) return;
    editor.commands.setTextSelection(editor.state.doc.content.size);
    editor.view.focus();
  };
  return (
    <>
      {ready ? null : (
        <label className="flex flex-col gap-1">
          {label}
          <textarea
            ref={field}
            className="textarea w-full"
            rows={3}
            dir="auto"
            // What has marks already is written on once they are shown.
            readOnly={written}
            value={words}
            onFocus={() => setBegun(true)}
            onChange={(event) => {
              setWords(event.target.value);
              onChange(documentOf(event.target.value));
            }}
          />
        </label>
      )}
      {written || begun ? (
        <div hidden={!ready}>
          <Suspense fallback={null}>
            <Loaded {...props} onReady={takeOver} />
          </Suspense>
        </div>
      ) : null}
    </>
  );
}
