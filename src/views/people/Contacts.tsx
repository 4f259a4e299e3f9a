import { useState, type SubmitEvent } from 'react';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';

interface Contact {
  id: number;
  name: string;
  mail: string | null;
  relation: string;
}

/** The linked contacts of a person: relatives, delegates or guardians who can be copied in. */
export function Contacts({ personId, personName }: { personId: number; personName: string }) {
  const [contacts, setContacts] = useState<Contact[] | null>(null);
  const [problem, setProblem] = useState<unknown>();
  const open = async (): Promise<void> => {
    try {
      setContacts(await ask<Contact[]>('GET', `/api/people/${personId}/contacts`));
    } catch (error) {
      setProblem(error);
    }
  };
  const add = async (event: SubmitEvent<HTMLFormElement>): Promise<void> => {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const text = (name: string): string => {
      const value = data.get(name);
      return typeof value === 'string' ? value.trim() : '';
    };
    setProblem(undefined);
    try {
      setContacts(
        await ask<Contact[]>('POST', `/api/people/${personId}/contacts`, {
          name: text('name'),
          mail: text('mail'),
          relation: text('relation'),
        }),
      );
      form.reset();
    } catch (error) {
      setProblem(error);
    }
  };
  const about = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  return (
    <details
      className="text-sm"
      onToggle={(event) => {
        if (event.currentTarget.open && contacts === null) void open();
      }}
    >
      <summary
        className="min-h-9 cursor-pointer py-1 link-quiet"
        aria-label={`Linked contacts of ${personName}`}
      >
        Linked contacts
      </summary>
      {contacts?.length === 0 ? <p className="text-quiet">None yet.</p> : null}
      <ul>
        {contacts?.map((contact) => (
          <li key={contact.id} className="border-t border-base-300 py-1">
            <span dir="auto">{contact.name}</span>{' '}
            <span className="text-quiet">
              {[contact.relation, contact.mail ?? 'no mail address'].filter(Boolean).join(', ')}
            </span>
          </li>
        ))}
      </ul>
      <form className="flex flex-wrap items-end gap-2 py-2" noValidate onSubmit={(event) => void add(event)}>
        {(
          [
            ['name', 'Name'],
            ['mail', 'Mail address'],
            ['relation', 'How linked'],
          ] as const
        ).map(([field, words]) => (
          <label key={field} className="flex flex-col gap-1">
            {words}
            <input
              name={field}
              type={field === 'mail' ? 'email' : 'text'}
              className="input w-44"
              aria-invalid={about(field) !== undefined}
            />
            {about(field) === undefined ? null : <span className="text-error">{about(field)}</span>}
          </label>
        ))}
        <button className="btn btn-outline btn-sm">Link them</button>
      </form>
      {problem !== undefined && !(problem instanceof ApiProblem && problem.errors.length > 0) ? (
        <p className="text-error">{wordsOf(problem)}</p>
      ) : null}
    </details>
  );
}
