import { useId, useState } from 'react';
import type { PatternPage } from '../../core/patterns/page.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, LinesField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { MoreMenu } from '../../ui/MoreMenu.tsx';
import { Moment } from '../../ui/Moment.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { blankWords } from './blanks.ts';
import { MakePlace } from './MakePlace.tsx';
import { Parts } from './Parts.tsx';

/** A pattern: a place is made from it here; what it holds and the places made from it stand below. */
export default function Pattern({
  first,
  me,
  zone,
}: {
  first: PatternPage;
  me: { id: number; name: string };
  zone: string;
}) {
  const path = `/api/patterns/${first.id}` as const;
  const { data: pattern = first } = useServer(path, { first });
  const [open, setOpen] = useState<'rename' | 'delete' | null>(null);
  const awake = useAwake();
  const { from, places } = pattern;
  return (
    <>
      <p className="text-sm">
        <a className="link-quiet" href="/patterns">
          Patterns
        </a>
      </p>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto" dir="auto">
          {pattern.name}
        </h1>
        {from ? (
          <a className="btn btn-outline" href={`/boards/${from.id}/pattern?anew=${pattern.id}`}>
            Take it anew
          </a>
        ) : null}
        {awake ? (
          <MoreMenu
            label={`More with ${pattern.name}`}
            acts={[
              { act: 'rename', words: 'Its name, and what it is for' },
              { act: 'delete', words: 'Delete it' },
            ]}
            onAct={setOpen}
          />
        ) : null}
      </div>
      {pattern.about === '' ? null : (
        <p className="max-w-prose" dir="auto">
          {pattern.about}
        </p>
      )}
      <p className="mb-6 text-sm text-quiet">
        Taken from{' '}
        {from ? (
          <a className="link-quiet" href={`/boards/${from.id}`} dir="auto">
            {from.name}
          </a>
        ) : (
          'a place that is gone'
        )}{' '}
        by {pattern.savedBy}, <Moment at={pattern.savedMs} zone={zone} />.
      </p>
      <MakePlace key={pattern.number} pattern={pattern} me={me} />
      <section aria-labelledby="places" className="mb-8">
        <h2 id="places" className="mb-2">
          Places made from it
        </h2>
        {places.length === 0 ? (
          <p className="text-quiet">None yet.</p>
        ) : (
          <ul className="ledger">
            {places.map((place) => (
              <li key={place.id}>
                <span className="margin text-sm">
                  <Moment at={place.madeMs} zone={zone} />
                </span>
                <a className="link-quiet font-semibold" href={`/patterns/places/${place.id}`} dir="auto">
                  {place.name}
                </a>
                <span className="state text-sm text-quiet">
                  {place.behind ? (
                    <span className="text-warning">the pattern has changed since</span>
                  ) : (
                    'as the pattern'
                  )}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-labelledby="holds">
        <h2 id="holds" className="mb-1">
          What it holds
        </h2>
        <p className="mb-2 text-quiet">
          Where “{pattern.called}” stands, a new place has its own name.
          {pattern.blanks.length > 0
            ? ` Asked for besides: ${pattern.blanks.map((blank) => blankWords(blank)).join('; ')}.`
            : ''}
        </p>
        <Parts label="What it holds" parts={pattern.parts} />
      </section>
      {open === 'rename' ? <Rename pattern={pattern} onClose={() => setOpen(null)} /> : null}
      {open === 'delete' ? (
        <Confirm
          title={`Delete “${pattern.name}”?`}
          detail={
            places.length === 0
              ? 'No place was made from it.'
              : 'The places made from it stay as they are. They are offered no changes any more, and can no longer be taken back whole.'
          }
          button="Delete it"
          onConfirm={async () => {
            await request('DELETE', path);
            location.assign('/patterns');
          }}
          onClose={() => setOpen(null)}
        />
      ) : null}
    </>
  );
}

function Rename({ pattern, onClose }: { pattern: PatternPage; onClose: () => void }) {
  const id = useId();
  const form = useServerForm({
    values: { name: pattern.name, about: pattern.about },
    send: async (given) => {
      await request('PUT', `/api/patterns/${pattern.id}`, given);
      form.reset(given);
      await refetch('/api/patterns');
      onClose();
    },
  });
  return (
    <Dialog
      open
      title="Its name, and what it is for"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            Keep it so
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="Name" maxLength={80} />
        <LinesField form={form} name="about" label="What it is for" />
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
