import {
  AtSign,
  Bold,
  Braces,
  Hash,
  Heading2,
  Heading3,
  Italic,
  Link,
  List,
  ListOrdered,
  type LucideIcon,
} from 'lucide-react';
import { ToggleButton, Toolbar as AriaToolbar } from 'react-aria-components';
import type { JSONContent } from '@tiptap/core';
import { EditorContent, useEditor, useEditorState, type Editor as TiptapEditor } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { useEffect, useId, useState } from 'react';
import type { Doc } from '../core/content/document.ts';
import { isSafeLink } from '../core/content/link.ts';
import { documentOfMarkdown, looksLikeMarkdown } from '../core/content/markdown.ts';
import { FORMS, type Tool } from './editorForms.tsx';
import { FieldNode, MentionNode, TABLE_NODES } from './editorNodes.ts';
import { cleanPasted } from './paste.ts';
import { TypedMention, type Typed } from './typedMention.ts';
import { TypedNames } from './TypedNames.tsx';
import type { FindsNames } from './NameCombo.tsx';

/** What a post or a reply does without. */
const ELABORATE = new Set(['Heading', 'Smaller heading', 'Field', 'Markdown']);

function Toolbar({
  editor,
  label,
  plain,
  names,
  fields,
}: {
  editor: TiptapEditor;
  label: string;
  plain: boolean;
  names?: FindsNames | undefined;
  fields?: Record<string, string> | undefined;
}) {
  const [open, setOpen] = useState<Tool | null>(null);
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
      field: current.isActive('field'),
    }),
  });
  const toggle = (tool: Tool) => () => setOpen((now) => (now === tool ? null : tool));
  const tools: { words: string; Icon: LucideIcon; pressed: boolean; press: () => void }[] = [
    { words: 'Bold', Icon: Bold, pressed: on.bold, press: () => editor.chain().focus().toggleBold().run() },
    {
      words: 'Italic',
      Icon: Italic,
      pressed: on.italic,
      press: () => editor.chain().focus().toggleItalic().run(),
    },
    {
      words: 'Heading',
      Icon: Heading2,
      pressed: on.heading,
      press: () => editor.chain().focus().toggleHeading({ level: 2 }).run(),
    },
    {
      words: 'Smaller heading',
      Icon: Heading3,
      pressed: on.smaller,
      press: () => editor.chain().focus().toggleHeading({ level: 3 }).run(),
    },
    {
      words: 'Bullets',
      Icon: List,
      pressed: on.bullets,
      press: () => editor.chain().focus().toggleBulletList().run(),
    },
    {
      words: 'Numbers',
      Icon: ListOrdered,
      pressed: on.numbers,
      press: () => editor.chain().focus().toggleOrderedList().run(),
    },
    { words: 'Link', Icon: Link, pressed: on.link || open === 'link', press: toggle('link') },
    { words: 'Field', Icon: Braces, pressed: on.field || open === 'field', press: toggle('field') },
    { words: 'Mention', Icon: AtSign, pressed: open === 'mention', press: toggle('mention') },
    { words: 'Markdown', Icon: Hash, pressed: open === 'markdown', press: toggle('markdown') },
  ];
  const shown = plain ? tools.filter((tool) => !ELABORATE.has(tool.words)) : tools;
  const Form = open ? FORMS[open] : null;
  return (
    <>
      <AriaToolbar aria-label={label} className="flex flex-wrap border-b border-base-300">
        {shown.map(({ words, Icon, pressed, press }) => (
          <ToggleButton
            key={words}
            isSelected={pressed}
            onChange={press}
            className="flex min-h-11 items-center gap-1 px-1.5 text-sm outline-none aria-pressed:bg-base-300 aria-pressed:font-semibold data-[focus-visible]:ring-2 data-[focus-visible]:ring-primary data-[hovered]:bg-base-200"
          >
            <Icon size={14} aria-hidden />
            {words}
          </ToggleButton>
        ))}
      </AriaToolbar>
      {Form ? <Form editor={editor} names={names} fields={fields} onDone={() => setOpen(null)} /> : null}
    </>
  );
}

/**
 * The rich text of a section. What is pasted is reduced to what we render: headings, lists, bold, italic, links. Plain
 * text that is written in Markdown is read as such.
 */
export function Editor({
  document,
  label,
  plain = false,
  names,
  fields,
  onReady,
  onChange,
}: {
  document: Doc;
  label: string;
  /** With the few tools a post or a reply needs. */
  plain?: boolean;
  /** Where names to call on are found; the desk's own where none is given. */
  names?: FindsNames;
  /** Fields besides those of the reader, by their names, with what each is called. */
  fields?: Record<string, string>;
  /** Called once it can be written in. */
  onReady?: (editor: TiptapEditor) => void;
  onChange: (document: Doc) => void;
}) {
  const [typed, setTyped] = useState<Typed | null>(null);
  const listId = useId();
  const editor: TiptapEditor | null = useEditor({
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
      FieldNode.configure({ labels: fields ?? {} }),
      MentionNode,
      TypedMention.configure({ names: names ?? '/api/names', onTyped: setTyped }),
      ...TABLE_NODES,
    ],
    // Our documents are a subset of the editor's, written more strictly.
    content: document as JSONContent,
    onCreate: ({ editor: created }) => onReady?.(created),
    editorProps: {
      attributes: {
        class: plain ? 'matter plain p-3' : 'matter p-4',
        'aria-label': label,
        role: 'textbox',
        'aria-multiline': 'true',
        dir: 'auto',
      },
      transformPastedHTML: cleanPasted,
      handlePaste: (_, event) => {
        const data = event.clipboardData;
        const text = data?.getData('text/plain') ?? '';
        if (!data || data.types.includes('text/html') || !looksLikeMarkdown(text)) return false;
        event.preventDefault();
        editor?.chain().focus().insertContent(documentOfMarkdown(text).content).run();
        return true;
      },
    },
    onUpdate: ({ editor: current }) => onChange(current.getJSON() as Doc),
  });
  useEffect(() => {
    // The text keeps the focus while a name is chosen; whoever cannot see is told which one it is.
    const text = editor?.view.dom;
    if (!text) return;
    if (typed && typed.found.length > 0) {
      text.setAttribute('aria-controls', listId);
      text.setAttribute('aria-activedescendant', `${listId}-${typed.at}`);
    } else {
      text.removeAttribute('aria-controls');
      text.removeAttribute('aria-activedescendant');
    }
  }, [editor, typed, listId]);
  return (
    <div>
      {plain ? (
        <span aria-hidden="true" className="mb-1 block">
          {label}
        </span>
      ) : null}
      <div className="border border-base-content/55 bg-base-100">
        {editor ? (
          <Toolbar editor={editor} label={label} plain={plain} names={names} fields={fields} />
        ) : (
          <div className="min-h-11 border-b border-base-300" />
        )}
        <EditorContent editor={editor} />
        <TypedNames typed={typed} id={listId} />
      </div>
    </div>
  );
}
