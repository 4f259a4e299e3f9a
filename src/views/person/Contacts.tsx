import { useState } from 'react';
import { newContactSchema } from '../../core/people/person.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { bySchema } from '../../ui/form/bySchema.ts';
import { CopyText } from '../../ui/CopyText.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { refetch, useServer } from '../../ui/server.ts';

/** The links by which a linked contact reads the boards they may, to be handed on; fetched when asked for. */
function BoardLinks({ contactId, name }: { contactId: number; name: string }) {
  const [open, setOpen] = useState(false);
  const links = useServer(open ? `/api/contacts/${contactId}/boards` : null);
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="min-h-6 cursor-pointer py-1 text-sm link-quiet">Links to boards for {name}</summary>
      {links.error ? <p className="text-error">{wordsOf(links.error)}</p> : null}
      {links.data?.length === 0 ? (
        <p className="text-sm text-quiet">
          None: a coordinator allows it in the settings of a board that whoever they are linked to reads.
        </p>
      ) : null}
      {links.data?.map((link) => (
        <div key={link.board} className="my-1">
          <p className="text-sm" dir="auto">
            {link.board}, for ninety days
          </p>
          <CopyText text={link.url} label={`The link to ${link.board}`} />
        </div>
      ))}
    </details>
  );
}

/** The linked contacts of a person: relatives, delegates or guardians who can be copied in. */
export function Contacts({ personId, personName }: { personId: number; personName: string }) {
  const path = `/api/people/${personId}/contacts` as const;
  const { data: contacts, error } = useServer(path);
  const form = useServerForm({
    values: { name: '', mail: '', relation: '' },
    resolver: bySchema(newContactSchema),
    send: async (given) => {
      await request('POST', path, given);
      await refetch(path);
      form.reset();
    },
  });
  return (
    <section aria-labelledby="contacts">
      <h2 id="contacts" className="mb-1">
        Linked contacts
      </h2>
      <p className="mb-2 text-sm text-quiet">
        Relatives, delegates or guardians of {personName} who can be copied in.
      </p>
      {error ? <p className="text-error">{wordsOf(error)}</p> : null}
      {contacts?.length === 0 ? <p className="text-quiet">None yet.</p> : null}
      <ul>
        {contacts?.map((contact) => (
          <li key={contact.id} className="border-t border-base-300 py-1">
            <span dir="auto">{contact.name}</span>{' '}
            <span className="text-quiet">
              {[contact.relation, contact.mail ?? 'no mail address'].filter(Boolean).join(', ')}
            </span>
            <BoardLinks contactId={contact.id} name={contact.name} />
          </li>
        ))}
      </ul>
      <form
        className="flex flex-wrap items-end gap-2 py-2"
        noValidate
        onSubmit={(event) => void form.submit(event)}
      >
        <Awake>
          <TextField form={form} name="name" label="Name" className="w-44" />
          <TextField form={form} name="mail" label="Mail address" type="email" className="w-44" />
          <TextField form={form} name="relation" label="How linked" className="w-44" />
          <button className="btn btn-outline btn-sm" disabled={form.formState.isSubmitting}>
            Link them
          </button>
        </Awake>
      </form>
      <FormProblem form={form} />
    </section>
  );
}
