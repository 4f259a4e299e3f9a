import type { CodeSecret } from '../../core/access/secondFactor.ts';
import { Notice } from '../../ui/Notice.tsx';
import { CodePicture } from './CodePicture.tsx';

/** The second step of signing in, by a code; what is to be set up first where nothing is. A plain form: it works before any script has come. */
export function SecondStepForm({
  name,
  codes,
  passkeys,
  toSetUp,
  error,
}: {
  name: string;
  codes: boolean;
  passkeys: boolean;
  toSetUp: CodeSecret | null;
  error: string | null;
}) {
  return (
    <form method="post" className="flex flex-col gap-4" aria-label="The second step">
      {toSetUp ? (
        <>
          <p dir="auto">
            You sign in as {name}. A second step is asked of everybody in your role: codes from an app on your
            phone. Other ways, such as a passkey, can be added later in Settings.
          </p>
          <CodePicture of={toSetUp} />
        </>
      ) : (
        <p dir="auto">
          {passkeys ? `Or write a code to sign in as ${name}.` : `You sign in as ${name}.`}{' '}
          {codes ? 'Write the code your app shows now' : 'Write one of your recovery codes'}
          {codes ? ', or a recovery code if you do not have it with you.' : '.'}
        </p>
      )}
      <label className="flex max-w-60 flex-col gap-1">
        Code
        <input
          name="code"
          type="text"
          inputMode={codes || toSetUp ? 'numeric' : 'text'}
          autoComplete="one-time-code"
          required
          maxLength={40}
          className="input w-full font-mono"
          aria-invalid={error !== null}
        />
      </label>
      {error === null ? null : <Notice tone="error">{error}</Notice>}
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary">Sign in</button>
        <a className="btn btn-ghost" href="/sign-in">
          Begin again
        </a>
      </div>
      {toSetUp ? null : (
        <p className="text-sm text-quiet">
          Neither at hand? A coordinator can take the second step away on your page under People.
        </p>
      )}
    </form>
  );
}
