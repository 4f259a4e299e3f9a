import { useId, useState } from 'react';
import { useWatch } from 'react-hook-form';
import { MOST_IDENTITIES, type BroughtIdentities } from '../../core/directory/bringing.ts';
import { plainHeading } from '../../core/imports/columns.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useListReader } from '../sheets/useListReader.ts';

/** What headings of a list are taken for at first. */
const WHO = ['mail', 'e-mail', 'email', 'address', 'mail address', 'person', 'name', 'who'];

interface List {
  headings: string[];
  count: number;
}

interface Chosen {
  system: string;
  /** Which columns of the list say who it is, and what they are called there. */
  who: number;
  value: number;
}

/** Which columns of a list are meant, as far as its headings tell; and the system, where one of them names it. */
function guessedFrom(
  headings: readonly string[],
  systems: readonly string[],
): Omit<Chosen, 'system'> & { system?: string } {
  const who = Math.max(
    0,
    headings.findIndex((heading) => WHO.includes(plainHeading(heading))),
  );
  const named = headings.find((heading, at) => at !== who && systems.includes(heading.trim()));
  return {
    who,
    value: who === 0 ? Math.min(1, headings.length - 1) : 0,
    ...(named === undefined ? {} : { system: named.trim() }),
  };
}

const Headings = ({ headings }: { headings: readonly string[] }) =>
  headings.map((heading, at) => (
    <option key={`${heading}-${at}`} value={at}>
      {heading === '' ? `Column ${at + 1}` : heading}
    </option>
  ));

/** Brings in what people are called in a system, from a list: looked at first, line by line, and only then kept. */
export function BringIdentities({
  systems,
  onClose,
  onDone,
}: {
  /** Systems that are known already. */
  systems: readonly string[];
  onClose: () => void;
  onDone: (made: number, system: string) => void;
}) {
  const readerOf = useListReader();
  const [list, setList] = useState<List>();
  const [looked, setLooked] = useState<{ of: Chosen; found: BroughtIdentities }>();
  const id = useId();
  const form = useServerForm<Chosen>({
    values: { system: '', who: 0, value: 1 },
    shown: ['system'],
    send: async (chosen) => {
      const rows = (await readerOf().raw([chosen.who, chosen.value])).map(
        ({ line, cells: [person = '', handle = ''] }) => ({
          line,
          who: person.slice(0, 400),
          value: handle.slice(0, 400),
        }),
      );
      if (rows.length > MOST_IDENTITIES)
        throw new Error(
          `${rows.length.toLocaleString('en-GB')} lines are more than the ${MOST_IDENTITIES.toLocaleString('en-GB')} that are brought in at once. Part the list.`,
        );
      const keep = found !== undefined;
      const answer = await request('POST', '/api/identities', { system: chosen.system, rows, keep });
      if (keep) onDone(answer.made, chosen.system);
      else setLooked({ of: chosen, found: answer });
    },
  });
  const { isSubmitting } = form.formState;
  const [system, who, value] = useWatch({ control: form.control, name: ['system', 'who', 'value'] });
  /** What was found, as long as nothing else is chosen. */
  const found =
    looked && looked.of.system === system && looked.of.who === who && looked.of.value === value
      ? looked.found
      : undefined;
  const choose = async (file: File): Promise<void> => {
    setLooked(undefined);
    form.clearErrors();
    const read = await readerOf().read(await file.arrayBuffer());
    if ('problem' in read) {
      form.setError('root', { message: read.problem });
      return;
    }
    setList(read);
    form.reset({ ...form.getValues(), ...guessedFrom(read.headings, systems) }, { keepDefaultValues: true });
  };
  return (
    <Dialog
      open
      title="Bring in a list of names"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={
              isSubmitting || (found ? found.made === 0 : !list || system.trim() === '' || who === value)
            }
          >
            {found ? `Bring in ${count(found.made, 'name', 'names')}` : 'See what fits'}
          </button>
        </>
      }
    >
      <form id={id} noValidate className="flex flex-col gap-3" onSubmit={(event) => void form.submit(event)}>
        <p>
          A list with a mail address of each person, or the whole name of exactly one, and what they are
          called in another system. Nobody is guessed, and nothing is taken from anybody.
        </p>
        <label className="btn btn-outline self-start">
          {list ? 'Choose another file' : 'Choose a CSV or JSON file'}
          <input
            type="file"
            accept=".csv,.tsv,.txt,.json,text/csv,text/plain,application/json"
            className="sr-only"
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              if (file) void choose(file);
            }}
          />
        </label>
        {list ? (
          <>
            <TextField
              form={form}
              name="system"
              label="The system is called"
              maxLength={40}
              list="systems-known"
            />
            <datalist id="systems-known">
              {systems.map((each) => (
                <option key={each} value={each} />
              ))}
            </datalist>
            <SelectField form={form} name="who" label="Who that is" read={Number}>
              <Headings headings={list.headings} />
            </SelectField>
            <SelectField form={form} name="value" label="What they are called there" read={Number}>
              <Headings headings={list.headings} />
            </SelectField>
            {who === value ? <p className="text-sm text-error">These are two different columns.</p> : null}
          </>
        ) : null}
        <div role="status">{found ? <Found found={found} /> : null}</div>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}

const Found = ({ found }: { found: BroughtIdentities }) => (
  <>
    <p>
      {count(found.made, 'name is', 'names are')} new, {found.there.toLocaleString('en-GB')}{' '}
      {found.there === 1 ? 'is' : 'are'} there already, {found.leftOut.toLocaleString('en-GB')}{' '}
      {found.leftOut === 1 ? 'is' : 'are'} left out{found.leftOut > 0 ? ':' : '.'}
    </p>
    {found.told.length > 0 ? (
      <ul className="mt-1 max-h-48 overflow-y-auto border-y border-base-300 text-sm">
        {found.told.map(({ line, who, value, why }) => (
          <li key={line} className="py-1" dir="auto">
            Line {line}, {who || 'nobody'}, “{value}”: {why}
          </li>
        ))}
      </ul>
    ) : null}
    {found.leftOut > found.told.length ? (
      <p className="text-sm text-quiet">
        And {(found.leftOut - found.told.length).toLocaleString('en-GB')} more.
      </p>
    ) : null}
  </>
);
