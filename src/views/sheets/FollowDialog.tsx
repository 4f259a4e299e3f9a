import { useId, useState } from 'react';
import { useWatch } from 'react-hook-form';
import { READ_EVERY, type FoundList } from '../../core/sheets/following.ts';
import { isCalculated, type SheetHead } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { SecretFields } from '../../ui/form/SecretFields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { FoundFields, guessed, type Found, type Source } from './FoundFields.tsx';

const EMPTY: Source = {
  url: 'https://',
  header: '',
  everyMinutes: 5,
  rows: '',
  key: '',
  gone: '',
  after: '',
  columns: {},
};
const plain = ({ url, header, everyMinutes, rows, key, gone, after, columns }: Source): Source => ({
  url,
  header,
  everyMinutes,
  rows,
  key,
  gone,
  after,
  columns,
});

interface Filled {
  source: Source;
  secret: string;
}

/** Where a sheet is read, and what of the answer is what: looked at first, and chosen from what is there. */
export function FollowDialog({ sheet, onClose }: { sheet: SheetHead; onClose: () => void }) {
  const { following } = sheet;
  const [found, setFound] = useState<Found>();
  const [looking, setLooking] = useState(false);
  const id = useId();
  const path = `/api/sheets/${sheet.id}/source` as const;
  const form = useServerForm<Filled>({
    values: { source: following ? plain(following) : EMPTY, secret: '' },
    // What is chosen of the answer tells nothing of itself.
    shown: ['source.url', 'source.header', 'source.everyMinutes', 'secret'],
    send: async ({ source, secret }) => {
      const { trouble } = await request('PUT', path, {
        source,
        secret,
        revision: following?.revision ?? null,
      });
      form.reset({ source, secret });
      await refetch(`/api/sheets/${sheet.id}`);
      if (trouble === null) void done('It is followed, and was read.');
      onClose();
    },
  });
  const source = useWatch({ control: form.control, name: 'source' });
  const set = (part: Partial<Source>): void =>
    form.setValue('source', { ...form.getValues('source'), ...part }, { shouldDirty: true });
  const written = sheet.columns.filter((column) => !isCalculated(column));
  const take = (list: FoundList): Partial<Source> => guessed(list, form.getValues('source'), written);
  const look = async (): Promise<void> => {
    setLooking(true);
    await form.attempt(async () => {
      const { source: given, secret } = form.getValues();
      const answer = await request('POST', `${path}/trial`, { url: given.url, header: given.header, secret });
      setFound(answer);
      const list = answer.lists.find((each) => each.pointer === given.rows) ?? answer.lists[0];
      const [position] = answer.positions;
      if (list) set({ ...take(list), after: position ? given.after || position.pointer : '' });
    }, 'source');
    setLooking(false);
  };
  const busy = looking || form.formState.isSubmitting;
  const list = found?.lists.find((each) => each.pointer === source.rows);
  return (
    <Dialog
      open
      title={following ? 'Change what it follows' : 'Follow an outside source'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-outline" disabled={busy} onClick={() => void look()}>
            Look at it
          </button>
          <button form={id} className="btn btn-primary" disabled={busy || (!following && !found)}>
            Follow it
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
        <div className="flex flex-col gap-1">
          <TextField
            form={form}
            name="source.url"
            label="Its address, which answers in JSON"
            maxLength={2000}
          />
          <span className="text-sm text-quiet">
            Where it answers with what changed after a position, write {'{after}'} for the position.
          </span>
        </div>
        <SecretFields
          form={form}
          header="source.header"
          secret="secret"
          kept={following?.hasSecret ?? false}
        />
        <SelectField
          form={form}
          name="source.everyMinutes"
          label="How often it is read"
          className="self-start"
          read={Number}
        >
          {Object.entries(READ_EVERY).map(([minutes, words]) => (
            <option key={minutes} value={minutes}>
              {words}
            </option>
          ))}
        </SelectField>
        {found && list ? (
          <FoundFields
            source={source}
            found={found}
            list={list}
            columns={written}
            onTake={(next) => set(take(next))}
            onSet={set}
          />
        ) : following ? (
          <p className="text-sm text-quiet">
            {count(Object.keys(source.columns).length, 'column comes', 'columns come')} from there. Look at it
            to choose others.
          </p>
        ) : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
