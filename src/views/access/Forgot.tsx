import { lastsFor } from '../../core/access/letter.ts';
import { Notice } from '../../ui/Notice.tsx';

/** A place to ask for a link by mail. A plain form: it works before any script has come. */
export function Forgot({
  asked,
  mail,
  error,
}: {
  /** What was just asked for, or nothing yet. */
  asked: 'reset' | 'sign-in' | null;
  mail: string;
  error: string | null;
}) {
  if (asked !== null)
    return (
      <>
        <h1 className="mb-3">Look at your mail</h1>
        <p role="status" className="mb-3">
          If <span dir="auto">{mail}</span> is an address Clear Bell knows, a link is on its way to it. It can
          be used once, for {lastsFor(asked)}.
        </p>
        <p className="mb-6 text-quiet">
          Nothing after a few minutes? Look among unwanted mail, and ask whoever runs your announcements which
          address they have of you.
        </p>
        <a className="btn btn-outline" href="/sign-in">
          Back to sign in
        </a>
      </>
    );
  return (
    <form method="post" aria-label="Come in by mail" className="flex flex-col gap-4">
      <h1>Come in by mail</h1>
      <label className="flex flex-col gap-1">
        Your mail address
        <input
          name="mail"
          type="text"
          inputMode="email"
          autoComplete="username"
          required
          defaultValue={mail}
          className="input w-full"
        />
      </label>
      {error === null ? null : <Notice tone="error">{error}</Notice>}
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary" name="kind" value="reset">
          Choose a new password
        </button>
        <button className="btn btn-outline" name="kind" value="sign-in">
          Sign in once, without a password
        </button>
      </div>
      <p className="text-sm text-quiet">A link comes by mail for either. Also if you never had a password.</p>
    </form>
  );
}
