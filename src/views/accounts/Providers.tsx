import { useState } from 'react';
import type { ProviderLine } from '../../core/access/provider.ts';
import { people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Confirm } from '../../ui/Confirm.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

const PATH = '/api/providers';

const ProviderDialog = lazily(() => import('./ProviderDialog.tsx').then((module) => module.ProviderDialog));

/** The providers people can sign in with. */
export function Providers({ first, back }: { first: ProviderLine[]; back: string }) {
  const { data: providers = first } = useServer(PATH, { first });
  const [opened, setOpened] = useState<{ of: ProviderLine | null }>();
  const [removing, setRemoving] = useState<ProviderLine>();
  const [problem, setProblem] = useState<string>();
  const tryIt = async (provider: ProviderLine): Promise<void> => {
    setProblem(undefined);
    try {
      const { signsOut } = await request('POST', `${PATH}/${provider.id}/try`);
      void done(
        `${provider.name} answers as it should${signsOut ? '' : '; it has no address to sign out at'}.`,
      );
    } catch (failed) {
      setProblem(wordsOf(failed));
    }
  };
  return (
    <Awake>
      <section className="mb-12 max-w-3xl" aria-labelledby="providers">
        <h2 id="providers" className="mb-2">
          Signing in with an account elsewhere
        </h2>
        <p className="mb-3 text-quiet">
          People come in with the account they have at work or in your organisation already, by OpenID
          Connect. Passwords and links by mail go on working beside it.
        </p>
        {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
        {providers.length === 0 ? (
          <p className="border-y border-base-300 py-3 text-quiet">None yet.</p>
        ) : (
          <ul className="border-t border-base-300" aria-label="Providers">
            {providers.map((provider) => (
              <li
                key={provider.id}
                className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-2"
              >
                <span className="min-w-0 grow basis-72" dir="auto">
                  <strong>{provider.name}</strong>
                  {provider.on ? null : <span className="text-warning"> not offered</span>}
                  <span className="block text-sm break-words text-quiet">
                    {provider.issuer}, as {provider.clientId};{' '}
                    {provider.people === 0 ? 'nobody has' : people(provider.people)} signed in with it
                  </span>
                </span>
                <span className="flex flex-wrap gap-1">
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    aria-label={`Try ${provider.name}`}
                    onClick={() => void tryIt(provider)}
                  >
                    Try it
                  </button>
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    aria-label={`Change ${provider.name}`}
                    onClick={() => setOpened({ of: provider })}
                  >
                    Change
                  </button>
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    aria-label={`Remove ${provider.name}`}
                    onClick={() => setRemoving(provider)}
                  >
                    Remove
                  </button>
                </span>
              </li>
            ))}
          </ul>
        )}
        <button type="button" className="btn btn-outline mt-3" onClick={() => setOpened({ of: null })}>
          Add a provider
        </button>
        {opened ? (
          <ProviderDialog
            of={opened.of}
            back={back}
            onClose={() => setOpened(undefined)}
            onDone={(name) => {
              void done(opened.of ? `${name} is changed.` : `People can sign in with ${name}.`);
              setOpened(undefined);
              void refetch(PATH);
            }}
          />
        ) : null}
        {removing ? (
          <Confirm
            title={`Remove ${removing.name}?`}
            detail={`${people(removing.people)} signed in with it. They then need a password or a link by mail. Whoever is signed in stays so.`}
            button="Remove it"
            onClose={() => setRemoving(undefined)}
            onConfirm={async () => {
              await request('DELETE', `${PATH}/${removing.id}`);
              await refetch(PATH);
            }}
          />
        ) : null}
      </section>
    </Awake>
  );
}
