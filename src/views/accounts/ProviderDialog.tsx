import { useWatch } from 'react-hook-form';
import { IDENTITY_CLAIMS, type IdentityClaim, type ProviderLine } from '../../core/access/provider.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

const PATH = '/api/providers';

const CLAIM_WORDS: Record<IdentityClaim, string> = {
  sub: 'its number of the account (sub)',
  preferred_username: 'the user name (preferred_username)',
  email: 'the mail address (email)',
};

/** As it is filled in: under the names by which the endpoint says what is wrong. */
interface Given {
  provider: {
    name: string;
    issuer: string;
    clientId: string;
    byMail: boolean;
    byIdentity: { system: string; claim: IdentityClaim };
  };
  identity: boolean;
  secret: string;
  on: boolean;
}

const begin = (of: ProviderLine | null): Given => ({
  provider: {
    name: of?.name ?? '',
    issuer: of?.issuer ?? 'https://',
    clientId: of?.clientId ?? '',
    byMail: of?.byMail ?? true,
    byIdentity: of?.byIdentity ?? { system: '', claim: 'preferred_username' },
  },
  identity: (of?.byIdentity ?? null) !== null,
  secret: '',
  on: of?.on ?? true,
});

/** A provider to sign in with, to be added or changed. */
export function ProviderDialog({
  of,
  back,
  onDone,
  onClose,
}: {
  of: ProviderLine | null;
  /** The address the provider sends people back to. */
  back: string;
  onDone: (name: string) => void;
  onClose: () => void;
}) {
  const form = useServerForm<Given>({
    values: begin(of),
    send: async (given) => {
      const { identity, on, secret } = given;
      const provider = { ...given.provider, byIdentity: identity ? given.provider.byIdentity : null };
      if (of)
        await request('PUT', `${PATH}/${of.id}`, { provider, on, secret: secret === '' ? null : secret });
      else await request('POST', PATH, { provider, secret });
      form.reset(given);
      onDone(provider.name);
    },
  });
  const identity = useWatch({ control: form.control, name: 'identity' });
  const byMailProblem = form.formState.errors.provider?.byMail?.message;
  return (
    <Dialog
      open
      title={of ? `Change ${of.name}` : 'Sign in with an account elsewhere'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={form.formState.isSubmitting}
            onClick={() => void form.submit()}
          >
            {of ? 'Change it' : 'Add it'}
          </button>
        </>
      }
    >
      <form className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <p className="text-quiet">
          Any provider of OpenID Connect. Register Clear Bell there first, with this address to come back to:
          <code className="mt-1 block font-mono text-sm break-all text-base-content">{back}</code>
        </p>
        <TextField form={form} name="provider.name" label="What your people call it" maxLength={80} />
        <TextField
          form={form}
          name="provider.issuer"
          label="Its address (issuer)"
          type="url"
          maxLength={300}
        />
        <TextField
          form={form}
          name="provider.clientId"
          label="Client id"
          maxLength={200}
          autoComplete="off"
        />
        <TextField
          form={form}
          name="secret"
          label={
            of?.hasSecret
              ? 'Client secret; left empty, the one that is kept stays'
              : 'Client secret, if there is one'
          }
          type="password"
          maxLength={700}
          autoComplete="off"
        />
        <fieldset className="flex flex-col gap-1">
          <legend className="mb-1">Who somebody is here, at their first sign-in</legend>
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              {...form.register('provider.byMail')}
            />
            whoever has the mail address, where the provider says that it is verified
          </label>
          <label className="flex min-h-11 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-primary" {...form.register('identity')} />
            whoever is called so in a system
          </label>
          {byMailProblem === undefined ? null : <span className="text-error">{byMailProblem}</span>}
          {identity ? (
            <div className="grid gap-3 sm:grid-cols-2">
              <TextField form={form} name="provider.byIdentity.system" label="The system" maxLength={40} />
              <SelectField form={form} name="provider.byIdentity.claim" label="By what the provider tells">
                {IDENTITY_CLAIMS.map((claim) => (
                  <option key={claim} value={claim}>
                    {CLAIM_WORDS[claim]}
                  </option>
                ))}
              </SelectField>
            </div>
          ) : null}
        </fieldset>
        {of ? (
          <label className="flex min-h-11 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-primary" {...form.register('on')} />
            It is offered on the sign-in page
          </label>
        ) : null}
        <p className="text-sm text-quiet">
          From then on the account itself is known: an address that changes there changes nothing here. A
          second step is the provider’s to ask for.
        </p>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
