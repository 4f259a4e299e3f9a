import { useState } from 'react';
import type { ScimClientLine } from '../../core/people/scim.ts';
import { people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Confirm } from '../../ui/Confirm.tsx';
import { CopyText } from '../../ui/CopyText.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

const PATH = '/api/systems';

/** The systems that keep people up to date here (SCIM 2.0). */
export function Systems({ first, base, zone }: { first: ScimClientLine[]; base: string; zone: string }) {
  const { data: systems = first } = useServer(PATH, { first });
  const [told, setTold] = useState<{ name: string; token: string }>();
  const [asking, setAsking] = useState<{ what: 'remove' | 'renew'; of: ScimClientLine }>();
  const [problem, setProblem] = useState<string>();
  const form = useServerForm({
    values: { name: '' },
    send: async ({ name }) => {
      setProblem(undefined);
      const { token } = await request('POST', PATH, { name });
      form.reset();
      setTold({ name, token });
      await refetch(PATH).catch((failed: unknown) => setProblem(wordsOf(failed)));
    },
  });
  return (
    <Awake>
      <section className="max-w-3xl" aria-labelledby="systems">
        <h2 id="systems" className="mb-2">
          Kept up to date by another system
        </h2>
        <p className="mb-3 text-quiet">
          The system that knows who works or volunteers here adds people, changes them and marks them as left,
          by SCIM 2.0. Who leaves there is out here within the second. Roles, boards and what was written stay
          yours.
        </p>
        {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
        {told ? (
          <div className="mb-4 border-l-4 border-warning px-4 py-3">
            <p className="mb-2" dir="auto">
              <strong>The token of {told.name}.</strong> It is told this once; it lets whoever has it change
              every person here.
            </p>
            <CopyText text={told.token} label="The token" />
          </div>
        ) : null}
        {systems.length === 0 ? (
          <p className="border-y border-base-300 py-3 text-quiet">
            None yet. People are entered by hand and brought in from lists.
          </p>
        ) : (
          <ul className="border-t border-base-300" aria-label="Systems">
            {systems.map((system) => (
              <li
                key={system.id}
                className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-2"
              >
                <span className="min-w-0 grow basis-72" dir="auto">
                  <strong>{system.name}</strong>
                  <span className="block text-sm text-quiet">
                    {system.people === 0 ? 'keeps nobody yet' : `keeps ${people(system.people)}`},{' '}
                    {system.usedMs === null ? (
                      'has not called yet'
                    ) : (
                      <>
                        last called <Moment at={system.usedMs} zone={zone} />
                      </>
                    )}
                    ; added by {system.madeBy}
                  </span>
                </span>
                <span className="flex flex-wrap gap-1">
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    aria-label={`Another token for ${system.name}`}
                    onClick={() => setAsking({ what: 'renew', of: system })}
                  >
                    Another token
                  </button>
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    aria-label={`Remove ${system.name}`}
                    onClick={() => setAsking({ what: 'remove', of: system })}
                  >
                    Remove
                  </button>
                </span>
              </li>
            ))}
          </ul>
        )}
        <form
          className="mt-4 flex max-w-xl flex-wrap items-end gap-3"
          noValidate
          onSubmit={(event) => void form.submit(event)}
        >
          <TextField
            form={form}
            name="name"
            label="A system to let in, by name"
            className="grow basis-60"
            maxLength={80}
            autoComplete="off"
          />
          <button className="btn btn-outline" disabled={form.formState.isSubmitting}>
            Let it in
          </button>
        </form>
        <FormProblem form={form} />
        <p className="mt-4 text-quiet">
          Give it this address, and the token:
          <code className="mt-1 block font-mono text-sm break-all text-base-content">{base}</code>
        </p>
        {asking ? (
          <Confirm
            title={
              asking.what === 'remove' ? `Remove ${asking.of.name}?` : `Another token for ${asking.of.name}?`
            }
            detail={
              asking.what === 'remove'
                ? 'Its token is refused from now on. The people and groups it kept stay as they are, and are yours to change.'
                : 'The one in use is refused from now on, until the new one is put in there.'
            }
            button={asking.what === 'remove' ? 'Remove it' : 'Make another'}
            onClose={() => setAsking(undefined)}
            onConfirm={async () => {
              const { id, name } = asking.of;
              if (asking.what === 'renew') {
                const { token } = await request('POST', `${PATH}/${id}/token`);
                setTold({ name, token });
              } else {
                await request('DELETE', `${PATH}/${id}`);
                setTold(undefined);
                void done(`${name} no longer changes anybody here.`);
              }
              await refetch(PATH);
            }}
          />
        ) : null}
      </section>
    </Awake>
  );
}
