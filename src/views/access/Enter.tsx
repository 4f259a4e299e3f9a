import { useState, useSyncExternalStore } from 'react';
import { MIN_PASSWORD } from '../../core/access/letter.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { Notice } from '../../ui/Notice.tsx';

const HEADING = {
  invitation: (organisation: string) => `Welcome to ${organisation}`,
  reset: () => 'Choose a new password',
  'sign-in': () => 'Sign in',
} as const;

const never = (): (() => void) => () => undefined;

/** The zone of the browser, once the script has come. */
const useBrowserZone = (): string | null =>
  useSyncExternalStore(
    never,
    () => Intl.DateTimeFormat().resolvedOptions().timeZone,
    () => null,
  );

/** What a letter's link leads to: a password to choose, or one press. A plain form: it works before any script has come. */
export default function Enter({
  kind,
  name,
  mail,
  organisation,
  by,
  zone,
  error,
}: {
  kind: 'invitation' | 'reset' | 'sign-in';
  name: string;
  mail: string;
  organisation: string;
  /** Who invited; null where they asked for it themselves. */
  by: string | null;
  /** The zone they read by until now. */
  zone: string;
  error: string | null;
}) {
  const [shown, setShown] = useState(false);
  const here = useBrowserZone();
  return (
    <form method="post" aria-label="Come in" className="flex flex-col gap-4">
      <h1 dir="auto">{HEADING[kind](organisation)}</h1>
      <p dir="auto">
        {kind === 'invitation' && by !== null ? `${by} has invited you, ${name}.` : `You come in as ${name}.`}
        {kind === 'reset' ? ' Whatever is signed in as you elsewhere is signed out.' : ''}
      </p>
      {kind === 'sign-in' ? null : (
        <>
          <input type="hidden" name="username" autoComplete="username" value={mail} readOnly />
          <label className="flex flex-col gap-1">
            {kind === 'reset' ? 'New password' : 'Choose a password'}
            <input
              name="password"
              type={shown ? 'text' : 'password'}
              autoComplete="new-password"
              maxLength={200}
              className="input w-full"
              aria-invalid={error !== null}
              aria-describedby="password-rule"
            />
          </label>
          {error === null ? null : <Notice tone="error">{error}</Notice>}
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={shown}
              onChange={(event) => setShown(event.target.checked)}
            />
            Show what I write
          </label>
          <p id="password-rule" className="text-sm text-quiet">
            At least {MIN_PASSWORD} characters. A few words in a row that do not belong together are easy to
            keep and hard to guess.
          </p>
        </>
      )}
      {kind === 'invitation' && here !== null && here !== zone ? (
        <label className="flex items-start gap-2 border-l-4 border-info px-4 py-2">
          <input type="checkbox" className="checkbox mt-1 checkbox-primary" name="zone" value={here} />
          <span>
            This device is on {zoneWords(here)} time, and you are down for {zoneWords(zone)}. Show me times as
            on this device.
          </span>
        </label>
      ) : null}
      {error !== null && kind === 'sign-in' ? <Notice tone="error">{error}</Notice> : null}
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary">
          {kind === 'sign-in' ? 'Sign in' : kind === 'reset' ? 'Set it and sign in' : 'Come in'}
        </button>
        {kind === 'invitation' ? (
          <button className="btn btn-outline" name="without" value="yes">
            Come in without a password
          </button>
        ) : null}
      </div>
      {kind === 'invitation' ? (
        <p className="text-sm text-quiet">
          Without a password you ask for a link by mail each time you sign in. You can choose one later.
        </p>
      ) : null}
    </form>
  );
}
