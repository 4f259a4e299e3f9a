import { useState } from 'react';
import type { MergeOutlook, Person } from '../../core/people/person.ts';
import { count, list } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { useServer } from '../../ui/server.ts';

/** What there is of the other entry, as a sentence. */
function outlookWords({ received, written, answered, groups }: MergeOutlook): string {
  const parts = [
    received > 0 ? count(received, 'announcement received', 'announcements received') : '',
    written > 0 ? count(written, 'post or reply', 'posts and replies') : '',
    answered > 0 ? count(answered, 'answer', 'answers') : '',
    groups > 0 ? `a place in ${count(groups, 'group', 'groups')}` : '',
  ].filter(Boolean);
  return parts.length === 0 ? 'Nothing stands under it.' : `Under it stand ${list(parts, 'and')}.`;
}

/** Makes another entry one with somebody, who stays; after the other's name was written once more. */
export function MergeDialog({
  person,
  onDone,
  onClose,
}: {
  person: Person;
  /** Called with the name of the entry that is no more. */
  onDone: (name: string) => void;
  onClose: () => void;
}) {
  const [other, setOther] = useState<number>();
  const { data: outlook, error } = useServer(other === undefined ? null : `/api/people/${other}/merge`);
  const form = useServerForm({
    values: { name: '', otherId: 0 },
    send: async ({ name }) => {
      await request('POST', `/api/people/${person.id}/merge`, { name, otherId: other ?? 0 });
      form.reset();
      onDone(outlook?.name ?? name);
    },
  });
  return (
    <Dialog
      open
      title={`Merge another entry into ${person.name}`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave both
          </button>
          <button
            type="button"
            className="btn btn-error"
            disabled={form.formState.isSubmitting || !outlook || other === person.id}
            onClick={() => void form.submit()}
          >
            Merge for good
          </button>
        </>
      }
    >
      <form className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <p>
          Where one person was entered twice. This entry stays, with its name, role and sign-in. What the
          other wrote, received and answered, its groups and addresses become this one’s; where both have the
          like, each stands as it was.
        </p>
        <NameSearch label="The other entry" onChoose={(found) => setOther(found.id)} />
        {error ? <p className="text-error">{wordsOf(error)}</p> : null}
        {other === person.id ? <p className="text-error">That is this entry. Choose the other one.</p> : null}
        {outlook && other !== person.id ? (
          <>
            <div className="border-l-4 border-info bg-base-200 px-4 py-2">
              <p className="font-semibold" dir="auto">
                {outlook.name}
              </p>
              <p className="text-quiet" dir="auto">
                {[outlook.occupation, outlook.stationName, outlook.mail ?? 'no mail address']
                  .filter(Boolean)
                  .join(', ')}
              </p>
              <p>{outlookWords(outlook)}</p>
            </div>
            <p>Their sign-in ends, and this cannot be undone.</p>
            <TextField
              form={form}
              name="name"
              label={`Write “${outlook.name}” to go on`}
              autoComplete="off"
              maxLength={200}
            />
          </>
        ) : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
