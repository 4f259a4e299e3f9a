import { startAuthentication } from '@simplewebauthn/browser';
import { useState } from 'react';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';

/** What a browser says where its dialog was closed, or took too long: neither is a fault. */
export const wasLeft = (problem: unknown): boolean =>
  problem instanceof Error && (problem.name === 'NotAllowedError' || problem.name === 'AbortError');

/**
 * Signs in with a passkey, alone or as the second step.
 *
 * @param path the endpoint that gives what the browser needs and takes what it gives back
 */
export function PasskeySignIn({
  path,
  next,
}: {
  path: '/api/sign-in/passkey' | '/api/sign-in/second';
  next: string;
}) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const signIn = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const optionsJSON = await request('POST', path, {});
      const response = await startAuthentication({ optionsJSON });
      await request('PUT', path, { response: { ...response } });
      location.assign(next);
    } catch (problem) {
      setBusy(false);
      setError(
        wasLeft(problem)
          ? 'No passkey was taken. Press again, or take another way to sign in.'
          : wordsOf(problem),
      );
    }
  };
  return (
    <Awake>
      <div className="my-4 flex flex-col gap-3">
        <button
          type="button"
          className="btn btn-outline self-start"
          disabled={busy}
          onClick={() => void signIn()}
        >
          {busy ? 'Waiting for your passkey …' : 'Sign in with a passkey'}
        </button>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Awake>
  );
}
