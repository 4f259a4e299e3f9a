import { useState } from 'react';
import type { GroupPage, GroupUse } from '../../core/groups/group.ts';
import { namedSchema } from '../../core/groups/schemas.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useAwake } from '../../ui/useAwake.ts';

/** Another name, and another purpose. */
function NameForm({
  group,
  onChanged,
  onClose,
}: {
  group: GroupPage;
  onChanged: () => Promise<void>;
  onClose: () => void;
}) {
  const form = useServerForm({
    values: { name: group.name, about: group.about },
    resolver: bySchema(namedSchema),
    send: async ({ name, about }) => {
      // A name it has already would be refused as another group's.
      await request('PUT', `/api/groups/${group.id}`, { ...(name === group.name ? {} : { name }), about });
      form.reset({ name, about });
      onClose();
      await onChanged();
    },
  });
  return (
    <form
      className="mr-auto flex max-w-full flex-wrap items-start gap-2"
      noValidate
      onSubmit={(event) => void form.submit(event)}
    >
      <TextField form={form} name="name" label="Name" maxLength={120} />
      <TextField
        form={form}
        name="about"
        label="What it is for"
        maxLength={300}
        className="w-96 max-w-full"
      />
      <button className="btn btn-primary mt-7" disabled={form.formState.isSubmitting}>
        Save
      </button>
      <button type="button" className="btn btn-ghost mt-7" onClick={onClose}>
        Keep it as it is
      </button>
      <FormProblem form={form} />
    </form>
  );
}

/** What still uses a group. */
export function Uses({ uses }: { uses: GroupUse[] }) {
  return (
    <ul className="list-disc pl-6">
      {uses.map((use) => (
        <li key={`${use.kind} ${use.path ?? use.name}`}>
          {use.kind}{' '}
          {use.path === null ? (
            <span dir="auto">{use.name}</span>
          ) : (
            <a className="link-quiet" href={use.path} dir="auto">
              {use.name}
            </a>
          )}
        </li>
      ))}
    </ul>
  );
}

function DeleteQuestion({
  group,
  open,
  onDelete,
  onClose,
}: {
  group: GroupPage;
  open: boolean;
  onDelete: () => void;
  onClose: () => void;
}) {
  return (
    <Dialog
      open={open}
      title={`Delete ${group.name}?`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={group.uses.length > 0}
            onClick={onDelete}
          >
            Delete the group
          </button>
        </>
      }
    >
      {group.uses.length > 0 ? (
        <>
          <p className="mb-2">It is still used, and each of these would mean somebody else without it:</p>
          <Uses uses={group.uses} />
        </>
      ) : (
        <p>
          The people in it stay. What was sent to it stays as it was; where it was named, it reads as a group
          that no longer exists. This cannot be undone.
        </p>
      )}
    </Dialog>
  );
}

/** A group's name, and what can be done with it as a whole. */
export function Heading({
  group,
  onChanged,
  onError,
}: {
  group: GroupPage;
  onChanged: () => Promise<void>;
  onError: (words: string | undefined) => void;
}) {
  const [naming, setNaming] = useState(false);
  const [deleting, setDeleting] = useState(false);
  const [archiving, setArchiving] = useState(false);
  const awake = useAwake();
  const archive = async (archived: boolean): Promise<void> => {
    onError(undefined);
    try {
      await request('PUT', `/api/groups/${group.id}/archived`, { archived });
      await onChanged();
    } catch (problem) {
      onError(wordsOf(problem));
    }
  };
  const remove = async (): Promise<void> => {
    setDeleting(false);
    try {
      await request('DELETE', `/api/groups/${group.id}`);
      location.assign('/groups');
    } catch (problem) {
      onError(wordsOf(problem));
    }
  };
  return (
    <div className="mb-2 flex flex-wrap items-center gap-3">
      {!naming ? (
        <h1 className="mr-auto" dir="auto">
          {group.name}
        </h1>
      ) : (
        <NameForm group={group} onChanged={onChanged} onClose={() => setNaming(false)} />
      )}
      {group.mayChange && !naming ? (
        <>
          <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => setNaming(true)}>
            Name and purpose
          </button>
          <button
            type="button"
            className="btn btn-ghost"
            disabled={!awake}
            onClick={() => (group.archived ? void archive(false) : setArchiving(true))}
          >
            {group.archived ? 'Bring it back' : 'Archive'}
          </button>
          <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => setDeleting(true)}>
            Delete
          </button>
        </>
      ) : null}
      {archiving ? (
        <Confirm
          title={`Archive ${group.name}?`}
          detail={
            group.uses.length > 0
              ? 'It is offered nowhere any more. Who is in it stays, and what speaks of it already, told on its page, goes on meaning the same people. It can be brought back.'
              : 'It is offered nowhere any more: not to write to, not to call on, not to come into. Who is in it stays. It can be brought back.'
          }
          button="Archive it"
          onClose={() => setArchiving(false)}
          onConfirm={() => archive(true)}
        />
      ) : null}
      <DeleteQuestion
        group={group}
        open={deleting}
        onDelete={() => void remove()}
        onClose={() => setDeleting(false)}
      />
    </div>
  );
}
