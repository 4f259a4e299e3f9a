import type { Editor as TiptapEditor } from '@tiptap/react';
import { useState, type ReactNode, type SubmitEvent } from 'react';
import { CALL_WORDS, isCall, type Call } from '../core/automation/calls.ts';
import { FIELDS } from '../core/content/field.ts';
import { completedLink, isSafeLink } from '../core/content/link.ts';
import { documentOfMarkdown } from '../core/content/markdown.ts';
import { NameSearch } from './NameSearch.tsx';
import type { FindsNames } from './NameCombo.tsx';

export type Tool = 'link' | 'field' | 'mention' | 'markdown';

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
  names?: FindsNames | undefined;
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
  const calls = callsAmong(fields);
  const own = Object.entries(fields).filter(([each]) => !isCall(each));
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
          {calls.length > 0 ? (
            <optgroup label="Whom it calls on">
              {calls.map((each) => (
                <option key={each} value={each}>
                  {CALL_WORDS[each]}
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

/** What of some fields calls on somebody who is only known when it is said. */
const callsAmong = (fields: Record<string, string>): Call[] => Object.keys(fields).filter(isCall);

function MentionForm({ editor, names, fields = {}, onDone }: ToolProps) {
  return (
    <div className="flex flex-col gap-2 border-b border-base-300 bg-base-200 p-2">
      {callsAmong(fields).length > 0 ? (
        <div className="flex flex-wrap gap-2">
          {callsAmong(fields).map((name) => (
            <button
              key={name}
              type="button"
              className="btn btn-outline btn-sm"
              onClick={() => {
                editor
                  .chain()
                  .focus()
                  .insertContent({ type: 'field', attrs: { name, fallback: '' } })
                  .run();
                onDone();
              }}
            >
              Call on {CALL_WORDS[name]}
            </button>
          ))}
        </div>
      ) : null}
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

/** What a tool asks for before it does its work. */
export const FORMS = {
  link: LinkForm,
  field: FieldForm,
  mention: MentionForm,
  markdown: MarkdownForm,
} as const;
