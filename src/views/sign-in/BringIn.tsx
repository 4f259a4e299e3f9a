import { useId, useState } from 'react';
import { MIN_PASSWORD } from '../../core/access/letter.ts';
import type { ArchiveLook } from '../../core/organisation/look.ts';
import { momentWords } from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';
import { request, sendFile } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { ChooseArchive } from '../../ui/ChooseArchive.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useActs } from '../../ui/useActs.ts';

type Looked = ArchiveLook & { key: string };

/** Brings an organisation in from an archive of another Clear Bell, where nobody is yet. */
export default function BringIn() {
  const [looked, setLooked] = useState<Looked>();
  const { busy, error, act } = useActs();
  const take = (file: File): (() => void) =>
    act(async () => {
      setLooked(undefined);
      setLooked(await sendFile<Looked>('/api/setup/archive', file));
    });
  return (
    <section className="mt-10 max-w-xl border-t border-base-300 pt-6" aria-labelledby="bring-in">
      <h2 id="bring-in" className="mb-1">
        From another Clear Bell
      </h2>
      <p className="mb-3 text-quiet">
        An archive that was taken out under Gateways is brought in whole: people, groups, boards, what was
        sent and what was answered.
      </p>
      <ChooseArchive
        chosen={looked !== undefined}
        busy={busy}
        error={error}
        onFile={(file) => take(file)()}
      />
      {looked ? <Confirmed key={looked.key} looked={looked} /> : null}
    </section>
  );
}

function Confirmed({ looked }: { looked: Looked }) {
  const rest = useId();
  const form = useServerForm({
    values: { mail: '', password: '', atRest: true },
    send: async (given) => {
      const { to } = await request('POST', '/api/setup/archive/bring-in', {
        ...given,
        key: looked.key,
      });
      form.reset(given);
      location.assign(to);
    },
  });
  const at = Date.parse(looked.takenAt);
  return (
    <form
      className="mt-5 flex max-w-md flex-col gap-4"
      onSubmit={(event) => void form.submit(event)}
      noValidate
      method="post"
    >
      <Awake>
        <p>
          <strong dir="auto">{looked.organisation}</strong>, as of {momentWords(at, 'UTC', at)} (UTC):{' '}
          {people(looked.people)}, {count(looked.sends, 'send', 'sends')},{' '}
          {count(looked.posts, 'post', 'posts')} and {count(looked.uploads, 'file', 'files')}.
        </p>
        <TextField
          form={form}
          name="mail"
          label="Your mail address, as a coordinator in it"
          type="email"
          autoComplete="email"
        />
        <TextField
          form={form}
          name="password"
          label={`A new password, at least ${MIN_PASSWORD} characters`}
          type="password"
          autoComplete="new-password"
        />
        <div className="flex gap-3">
          <input
            type="checkbox"
            id={rest}
            className="checkbox checkbox-primary mt-0.5"
            aria-describedby={`${rest}-why`}
            {...form.register('atRest')}
          />
          <div>
            <label htmlFor={rest}>Lay at rest what speaks by itself</label>
            <p id={`${rest}-why`} className="text-sm text-quiet">
              What is planned once is taken back; what recurs, automations and ways out are paused. Leave this
              on while the other Clear Bell may still run, or people are told twice.
            </p>
          </div>
        </div>
        <p className="text-sm text-quiet">
          Everybody else comes in by a letter to their mail address: passwords and tokens are in no archive.
        </p>
        <FormProblem form={form} />
        <button className="btn btn-primary" disabled={form.formState.isSubmitting}>
          {form.formState.isSubmitting ? 'Bringing it in …' : 'Bring it in'}
        </button>
      </Awake>
    </form>
  );
}
