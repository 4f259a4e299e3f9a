import type { z } from 'zod';
import { subjectSchema, type Subject } from '../../core/shelf/shelf.ts';
import { request } from '../../ui/api.ts';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

type Filled = z.input<typeof subjectSchema>;

/** A subject to be added to the shelf. */
export function NewSubject({ subjects, onDone }: { subjects: readonly Subject[]; onDone: () => void }) {
  const form = useServerForm<Filled>({
    values: { name: '', parentId: null },
    resolver: bySchema(subjectSchema),
    send: async (given) => {
      await request('POST', '/api/shelf/subjects', given);
      form.reset();
      onDone();
    },
  });
  return (
    <form
      className="flex flex-wrap items-start gap-3"
      noValidate
      onSubmit={(event) => void form.submit(event)}
    >
      <TextField form={form} name="name" label="New subject" maxLength={80} />
      <SelectField form={form} name="parentId" label="Within" read={idOrNone}>
        <option value="">nothing: it stands by itself</option>
        {subjects
          .filter((each) => each.parentId === null)
          .map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
      </SelectField>
      <button className="btn btn-outline mt-7" disabled={form.formState.isSubmitting}>
        Add the subject
      </button>
      <FormProblem form={form} />
    </form>
  );
}
