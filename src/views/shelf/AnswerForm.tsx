import { useWatch } from 'react-hook-form';
import { EMPTY_DOCUMENT, type Doc } from '../../core/content/document.ts';
import type { Subject } from '../../core/shelf/shelf.ts';
import { request } from '../../ui/api.ts';
import { Editor } from '../../ui/Editor.tsx';
import { CheckField, FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm, type ServerForm } from '../../ui/form/useServerForm.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';

export interface DraftAnswer {
  question: string;
  document: Doc;
  subjectId: number;
  occurrenceId: number | null;
  /** The title of the announcement that said it. */
  announcement: string | null;
  published: boolean;
}

/** Subjects in order, each narrower one under its own. */
export const inOrder = (subjects: readonly Subject[]): Subject[] =>
  subjects
    .filter((each) => each.parentId === null)
    .flatMap((each) => [each, ...subjects.filter((other) => other.parentId === each.id)]);

type Given = DraftAnswer & { boardId: number | null };

/** The announcement that said it, where one did. */
function Announcement({ form }: { form: ServerForm<Given> }) {
  const [occurrenceId, announcement] = useWatch({
    control: form.control,
    name: ['occurrenceId', 'announcement'],
  });
  const choose = (id: number | null, title: string | null): void => {
    form.setValue('occurrenceId', id, { shouldDirty: true });
    form.setValue('announcement', title);
  };
  return (
    <>
      {occurrenceId === null ? (
        <NameSearch
          label="The announcement that said it, if any"
          from="/api/shelf/announcements"
          limits="Only what has gone out is found, by its title."
          onChoose={(found) => choose(found.id, found.name)}
        />
      ) : (
        <p className="flex flex-col gap-1">
          The announcement that said it
          <span className="flex min-h-11 items-center gap-2">
            <strong dir="auto">{announcement ?? `No. ${occurrenceId}`}</strong>
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => choose(null, null)}>
              None
            </button>
          </span>
        </p>
      )}
    </>
  );
}

/** Writes an answer, or changes one; it may settle the question of somebody. */
export function AnswerForm({
  first,
  answerId,
  settles,
  subjects,
  boards = [],
  onDone,
  onCancel,
}: {
  first?: DraftAnswer;
  answerId?: number;
  settles?: { id: number; text: string; by: string; named: boolean };
  subjects: readonly Subject[];
  /** Where it can be answered for all besides. */
  boards?: readonly { id: number; name: string }[];
  onDone: (id: number | undefined) => void;
  onCancel: () => void;
}) {
  const form = useServerForm<Given>({
    values: {
      ...(first ?? {
        question: settles?.text.slice(0, 200) ?? '',
        document: EMPTY_DOCUMENT,
        subjectId: 0,
        occurrenceId: null,
        announcement: null,
        published: true,
      }),
      boardId: null,
    },
    send: async (given) => {
      const body = { ...given, settles: settles?.id ?? null };
      if (answerId === undefined) {
        const { id } = await request('POST', '/api/shelf/answers', body);
        form.reset(given);
        onDone(id);
      } else {
        await request('PUT', `/api/shelf/answers/${answerId}`, body);
        form.reset(given);
        onDone(answerId);
      }
    },
  });
  const document = useWatch({ control: form.control, name: 'document' });
  const wrong = form.formState.errors.document?.message;
  const busy = form.formState.isSubmitting;
  return (
    <form
      className="flex flex-col gap-3 border border-base-300 bg-base-100 p-4"
      noValidate
      onSubmit={(event) => void form.submit(event)}
    >
      {settles ? (
        <p className="border-l-4 border-info px-3">
          {settles.by} asked: <q dir="auto">{settles.text}</q>{' '}
          <span className="text-sm text-quiet">
            {settles.named
              ? 'They may be named where it is answered for all.'
              : 'They are not named where it is answered for all.'}
          </span>
        </p>
      ) : null}
      <TextField form={form} name="question" label="The question it answers" maxLength={200} />
      <Editor
        plain
        label="The answer"
        document={document}
        onChange={(next) => form.setValue('document', next, { shouldDirty: true })}
      />
      {typeof wrong === 'string' ? <span className="text-error">{wrong}</span> : null}
      <div className="grid gap-3 sm:grid-cols-2">
        <SelectField form={form} name="subjectId" label="Subject" read={(value) => Number(value)}>
          <option value={0}>choose one</option>
          {inOrder(subjects).map((subject) => (
            <option key={subject.id} value={subject.id}>
              {subject.parentId === null ? subject.name : `\u2003${subject.name}`}
            </option>
          ))}
        </SelectField>
        <Announcement form={form} />
      </div>
      <CheckField
        form={form}
        name="published"
        label={`On the shelf for all${settles ? '; otherwise only for whoever asked' : ''}`}
      />
      {answerId === undefined && boards.length > 0 ? (
        <SelectField
          form={form}
          name="boardId"
          label="Answer it on a board, too"
          className="max-w-md"
          read={idOrNone}
        >
          <option value="">on none</option>
          {boards.map((board) => (
            <option key={board.id} value={board.id}>
              {board.name}
            </option>
          ))}
        </SelectField>
      ) : null}
      <FormProblem form={form} />
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary" disabled={busy}>
          {settles ? 'Send the answer' : answerId === undefined ? 'Put it on the shelf' : 'Save the change'}
        </button>
        <button type="button" className="btn btn-ghost" onClick={onCancel}>
          Leave it
        </button>
      </div>
    </form>
  );
}
