import { useId, useState } from 'react';
import { Controller } from 'react-hook-form';
import { imagePath, type Image } from '../../core/content/section.ts';
import type { Sender } from '../../core/senders/sender.ts';
import type { SenderInput } from '../../core/senders/senderSchema.ts';
import { count, list } from '../../core/words.ts';
import { request, upload } from '../../ui/api.ts';
import { Choose, IMAGE_KINDS } from '../../ui/Attached.tsx';
import { Confirm } from '../../ui/Confirm.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';

const PATH = '/api/senders';

function usedWords({ automations, waysIn }: Sender): string {
  const uses = [
    ...(automations > 0 ? [count(automations, 'automation', 'automations')] : []),
    ...(waysIn > 0 ? [count(waysIn, 'way in', 'ways in')] : []),
  ];
  if (uses.length === 0) return 'Nothing speaks under it.';
  return `${list(uses, 'and')} ${automations + waysIn === 1 ? 'speaks' : 'speak'} under it.`;
}

function Picture({ picture, size }: { picture: Image | null; size: 'size-10' | 'size-14' }) {
  return picture === null ? (
    <span className={`inline-block shrink-0 rounded-sm bg-base-300 ${size}`} aria-hidden />
  ) : (
    <img src={imagePath(picture, 'page', 1)} alt="" className={`rounded-sm object-cover ${size}`} />
  );
}

/** A sender to be made or changed: its name, and the picture beside it. */
function SenderDialog({ sender, onClose }: { sender: Sender | null; onClose: () => void }) {
  const id = useId();
  const form = useServerForm<SenderInput>({
    values: { name: sender?.name ?? '', picture: sender?.picture ?? null },
    send: async (given) => {
      if (sender) await request('PUT', `${PATH}/${sender.id}`, given);
      else await request('POST', PATH, given);
      form.reset(given);
      await refetch(PATH);
      void done(sender ? 'The sender is changed.' : 'The sender is made.');
      onClose();
    },
  });
  return (
    <Dialog
      open
      title={sender ? `Change “${sender.name}”` : 'A new sender'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            {sender ? 'Change it' : 'Make it'}
          </button>
        </>
      }
    >
      <form id={id} noValidate className="flex flex-col gap-3" onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="Its name, such as “The vault desk”" maxLength={80} />
        {sender ? (
          <p className="text-sm text-quiet">What was said until now keeps the name it was said under.</p>
        ) : null}
        <Controller
          control={form.control}
          name="picture"
          render={({ field }) => (
            <div className="flex flex-wrap items-center gap-3">
              <Picture picture={field.value} size="size-14" />
              <Choose
                words={field.value ? 'Another picture' : 'Add a picture'}
                accept={IMAGE_KINDS}
                keep={async (file) => {
                  const kept = await upload<Pick<Image, 'key' | 'width' | 'height'>>(file, 'image');
                  field.onChange({ ...kept, alt: '', placement: 'beside', focus: { x: 50, y: 50 } });
                }}
              />
              {field.value ? (
                <button type="button" className="btn btn-ghost btn-sm" onClick={() => field.onChange(null)}>
                  Take it out
                </button>
              ) : null}
            </div>
          )}
        />
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}

/** The named senders under which automations and ways in speak, each with its picture. */
export default function Senders({ first, mayChange }: { first: Sender[]; mayChange: boolean }) {
  const senders = useServer(PATH, { first }).data ?? first;
  const [open, setOpen] = useState<{ sender: Sender | null; deletes: boolean }>();
  const awake = useAwake();
  const close = (): void => setOpen(undefined);
  return (
    <section className="mt-10" aria-labelledby="senders">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 id="senders" className="mr-auto">
          Senders
        </h2>
        <button
          type="button"
          className="btn btn-outline"
          disabled={!awake}
          onClick={() => setOpen({ sender: null, deletes: false })}
        >
          Make a sender
        </button>
      </div>
      <p className="mb-3 max-w-2xl text-quiet">
        Under a sender automations and ways in speak. Its picture stands beside its name on boards, where one
        reads what came, and in mail.
      </p>
      {senders.length === 0 ? (
        <p className="text-quiet">There are none yet.</p>
      ) : (
        <ul>
          {senders.map((sender) => (
            <li
              key={sender.id}
              className="flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-base-300 py-3"
            >
              <Picture picture={sender.picture} size="size-10" />
              <span className="mr-auto min-w-48">
                <span className="block font-semibold" dir="auto">
                  {sender.name}
                </span>
                <span className="block text-sm text-quiet">{usedWords(sender)}</span>
              </span>
              {mayChange ? (
                <span className="flex gap-2">
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    aria-label={`Change ${sender.name}`}
                    disabled={!awake}
                    onClick={() => setOpen({ sender, deletes: false })}
                  >
                    Change
                  </button>
                  {sender.automations + sender.waysIn === 0 ? (
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      aria-label={`Delete ${sender.name}`}
                      disabled={!awake}
                      onClick={() => setOpen({ sender, deletes: true })}
                    >
                      Delete
                    </button>
                  ) : null}
                </span>
              ) : null}
            </li>
          ))}
        </ul>
      )}
      {open && !open.deletes ? <SenderDialog sender={open.sender} onClose={close} /> : null}
      {open?.deletes && open.sender ? (
        <Confirm
          title={`Delete “${open.sender.name}”?`}
          detail="What was said under it keeps its name, without a picture."
          button="Delete it"
          onConfirm={async () => {
            await request('DELETE', `${PATH}/${open.sender?.id ?? 0}`);
            await refetch(PATH);
          }}
          onClose={close}
        />
      ) : null}
    </section>
  );
}
