import type { JSONContent } from '@tiptap/core';
import { EditorContent, useEditor, useEditorState, type Editor as TiptapEditor } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { useState, type SubmitEvent } from 'react';
import type { Doc } from '../../core/content/document.ts';
import { isSafeLink } from '../../core/content/link.ts';

function LinkForm({ editor, onDone }: { editor: TiptapEditor; onDone: () => void }) {
  const [href, setHref] = useState(() => {
    const { href: current } = editor.getAttributes('link') as { href?: unknown };
    return typeof current === 'string' ? current : 'https://';
  });
  const [wrong, setWrong] = useState(false);
  const submit = (event: SubmitEvent): void => {
    event.preventDefault();
    event.stopPropagation();
    const address = href.trim();
    if (!isSafeLink(address)) {
      setWrong(true);
      return;
    }
    const chain = editor.chain().focus().extendMarkRange('link');
    if (editor.state.selection.empty && !editor.isActive('link'))
      chain
        .insertContent({ type: 'text', text: address, marks: [{ type: 'link', attrs: { href: address } }] })
        .run();
    else chain.setLink({ href: address }).run();
    onDone();
  };
  return (
    <form
      onSubmit={submit}
      className="flex flex-wrap items-center gap-2 border-b border-base-300 bg-base-200 p-2"
    >
      <label className="flex grow items-center gap-2">
        Link to
        <input
          className="input grow"
          value={href}
          onChange={(event) => setHref(event.target.value)}
          // The form opens because its button was pressed; typing should go here.
          autoFocus // eslint-disable-line jsx-a11y/no-autofocus
          aria-invalid={wrong}
        />
      </label>
      <button className="btn btn-primary">Set link</button>
      <button
        type="button"
        className="btn btn-ghost"
        onClick={() => {
          editor.chain().focus().extendMarkRange('link').unsetLink().run();
          onDone();
        }}
      >
        No link
      </button>
      {wrong ? (
        <p className="w-full text-error">A link begins with https://, http://, mailto: or tel:.</p>
      ) : null}
    </form>
  );
}

function Toolbar({ editor }: { editor: TiptapEditor }) {
  const [linking, setLinking] = useState(false);
  const on = useEditorState({
    editor,
    selector: ({ editor: current }) => ({
      bold: current.isActive('bold'),
      italic: current.isActive('italic'),
      heading: current.isActive('heading', { level: 2 }),
      smaller: current.isActive('heading', { level: 3 }),
      bullets: current.isActive('bulletList'),
      numbers: current.isActive('orderedList'),
      link: current.isActive('link'),
    }),
  });
  const tools: { words: string; pressed: boolean; press: () => void }[] = [
    { words: 'Bold', pressed: on.bold, press: () => editor.chain().focus().toggleBold().run() },
    { words: 'Italic', pressed: on.italic, press: () => editor.chain().focus().toggleItalic().run() },
    {
      words: 'Heading',
      pressed: on.heading,
      press: () => editor.chain().focus().toggleHeading({ level: 2 }).run(),
    },
    {
      words: 'Smaller heading',
      pressed: on.smaller,
      press: () => editor.chain().focus().toggleHeading({ level: 3 }).run(),
    },
    { words: 'Bullets', pressed: on.bullets, press: () => editor.chain().focus().toggleBulletList().run() },
    { words: 'Numbers', pressed: on.numbers, press: () => editor.chain().focus().toggleOrderedList().run() },
    { words: 'Link', pressed: on.link || linking, press: () => setLinking((open) => !open) },
  ];
  return (
    <>
      <div role="toolbar" aria-label="Text" className="flex flex-wrap border-b border-base-300">
        {tools.map((tool) => (
          <button
            key={tool.words}
            type="button"
            aria-pressed={tool.pressed}
            onClick={tool.press}
            className="min-h-11 px-3 aria-pressed:bg-base-300 aria-pressed:font-semibold hover:bg-base-200"
          >
            {tool.words}
          </button>
        ))}
      </div>
      {linking ? <LinkForm editor={editor} onDone={() => setLinking(false)} /> : null}
    </>
  );
}

/** The rich text of an announcement. What is pasted is reduced to what we render: headings, lists, bold, italic, links. */
export function Editor({ document, onChange }: { document: Doc; onChange: (document: Doc) => void }) {
  const editor = useEditor({
    immediatelyRender: false,
    injectCSS: false,
    extensions: [
      StarterKit.configure({
        heading: { levels: [2, 3] },
        blockquote: false,
        code: false,
        codeBlock: false,
        horizontalRule: false,
        strike: false,
        underline: false,
        trailingNode: false,
        link: {
          openOnClick: false,
          isAllowedUri: (uri) => isSafeLink(uri),
          HTMLAttributes: { rel: null, target: null },
        },
      }),
    ],
    // Our documents are a subset of the editor's, written more strictly.
    content: document as JSONContent,
    editorProps: {
      attributes: {
        class: 'matter p-4',
        'aria-label': 'Text',
        role: 'textbox',
        'aria-multiline': 'true',
        dir: 'auto',
      },
    },
    onUpdate: ({ editor: current }) => onChange(current.getJSON() as Doc),
  });
  return (
    <div className="border border-base-content/55 bg-base-100">
      {editor ? <Toolbar editor={editor} /> : <div className="min-h-11 border-b border-base-300" />}
      <EditorContent editor={editor} />
    </div>
  );
}
