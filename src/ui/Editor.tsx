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
import { useState, type ReactNode, type SubmitEvent } from 'react';
import type { Doc } from '../core/content/document.ts';
import { FIELDS } from '../core/content/field.ts';
import { completedLink, isSafeLink } from '../core/content/link.ts';
import { documentOfMarkdown, looksLikeMarkdown } from '../core/content/markdown.ts';
import { NameSearch } from './NameSearch.tsx';
import { FieldNode, MentionNode, TABLE_NODES } from './editorNodes.ts';
import { cleanPasted } from './paste.ts';

type Tool = 'link' | 'field' | 'mention' | 'markdown';

function ToolForm({ onSubmit, children }: { onSubmit: () => void; children: ReactNode }) {
  return (
    <form
      onSubmit={(event: SubmitEvent) => {
        event.preventDefault();
        event.stopPropagation();
        onSubmit();
      }}
      className="flex flex-wrap items-end gap-2 border-b border-base-300 bg-base-200 p-2"
    >
      {children}
    </form>
  );
}

interface ToolProps {
  editor: TiptapEditor;
  /** Where names are found; the desk's own where none is given. */
  names?: string | undefined;
  /** Fields besides those of the reader, by their names, with what each is called. */
  fields?: Record<string, string> | undefined;
  onDone: () => void;
}

function LinkForm({ editor, onDone }: ToolProps) {
  const [href, setHref] = useState(() => {
    const { href: current } = editor.getAttributes('link') as { href?: unknown };
    return typeof current === 'string' ? current : '';
  });
  const [wrong, setWrong] = useState(false);
  const submit = (): void => {
    const address = completedLink(href);
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
    <ToolForm onSubmit={submit}>
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
        <p className="w-full text-error">
          That is no address. One is written such as thistledown.example/plan, or begins with https://,
          mailto: or tel:.
        </p>
      ) : null}
    </ToolForm>
  );
}

/** Puts in a field, or changes the one that is selected. */
function FieldForm({ editor, fields = {}, onDone }: ToolProps) {
  const own = Object.entries(fields);
  const selected = editor.isActive('field')
    ? (editor.getAttributes('field') as { name: string; fallback: string })
    : null;
  const [name, setName] = useState(selected?.name ?? own[0]?.[0] ?? 'first name');
  const [fallback, setFallback] = useState(selected?.fallback ?? '');
  return (
    <ToolForm
      onSubmit={() => {
        const attrs = { name, fallback: fallback.trim() };
        if (selected) editor.chain().focus().updateAttributes('field', attrs).run();
        else editor.chain().focus().insertContent({ type: 'field', attrs }).run();
        onDone();
      }}
    >
      <label className="flex flex-col gap-1">
        {own.length > 0 ? 'What is filled in' : 'The reader’s'}
        <select className="select" value={name} onChange={(event) => setName(event.target.value)}>
          {own.length > 0 ? (
            <optgroup label="Of what it speaks of">
              {own.map(([each, label]) => (
                <option key={each} value={each}>
                  {label}
                </option>
              ))}
            </optgroup>
          ) : null}
          <optgroup label="Of each reader">
            {FIELDS.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </optgroup>
        </select>
      </label>
      <label className="flex grow flex-col gap-1">
        Where it is not known, this stands instead
        <input
          className="input w-full"
          maxLength={80}
          value={fallback}
          onChange={(event) => setFallback(event.target.value)}
        />
      </label>
      <button className="btn btn-primary">{selected ? 'Change the field' : 'Put it in'}</button>
    </ToolForm>
  );
}

function MentionForm({ editor, names, onDone }: ToolProps) {
  return (
    <div className="border-b border-base-300 bg-base-200 p-2">
      <NameSearch
        label={names === undefined ? 'Whom to mention: a person, or a group' : 'Whom to call on'}
        groups
        {...(names === undefined ? {} : { from: names })}
        onChoose={(found) => {
          editor
            .chain()
            .focus()
            .insertContent({ type: 'mention', attrs: { kind: found.kind, id: found.id, label: found.name } })
            .run();
          onDone();
        }}
      />
    </div>
  );
}

function MarkdownForm({ editor, onDone }: ToolProps) {
  const [text, setText] = useState('');
  return (
    <ToolForm
      onSubmit={() => {
        editor.chain().focus().insertContent(documentOfMarkdown(text).content).run();
        onDone();
      }}
    >
      <label className="flex w-full flex-col gap-1">
        Markdown, to be put in where the cursor is
        <textarea
          className="textarea min-h-32 w-full font-mono"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <label className="btn btn-outline">
        From a file
        <input
          type="file"
          accept=".md,.markdown,.txt,text/markdown,text/plain"
          className="sr-only"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) void file.text().then(setText);
          }}
        />
      </label>
      <button className="btn btn-primary" disabled={text.trim() === ''}>
        Put it in
      </button>
    </ToolForm>
  );
}

/** What a post or a reply does without. */
const ELABORATE = new Set(['Heading', 'Smaller heading', 'Field', 'Markdown']);

const FORMS = { link: LinkForm, field: FieldForm, mention: MentionForm, markdown: MarkdownForm } as const;

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
  names?: string | undefined;
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
  names?: string;
  /** Fields besides those of the reader, by their names, with what each is called. */
  fields?: Record<string, string>;
  /** Called once it can be written in. */
  onReady?: (editor: TiptapEditor) => void;
  onChange: (document: Doc) => void;
}) {
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
      </div>
    </div>
  );
}
