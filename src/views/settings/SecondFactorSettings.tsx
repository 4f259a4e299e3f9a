import { startRegistration } from '@simplewebauthn/browser';
import { useState, type ReactNode } from 'react';
import { RECOVERY_CODES, type CodeSecret, type SecondFactor } from '../../core/access/secondFactor.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Confirm } from '../../ui/Confirm.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { CodePicture } from '../sign-in/CodePicture.tsx';
import { wasLeft } from '../sign-in/PasskeySignIn.tsx';
import { RecoveryCodes } from '../sign-in/RecoveryCodes.tsx';

const PATH = '/api/me/second-factor';

interface Given {
  recovery: string[] | null;
}

/** What is asked before it is taken away. */
interface Removal {
  title: string;
  detail: string;
  button: string;
  act: () => Promise<Given | undefined>;
}

/** What one takes as a second step when signing in: passkeys, codes from an app, recovery codes. */
export function SecondFactorSettings({
  first,
  zone,
  passkeys,
}: {
  first: SecondFactor;
  zone: string;
  passkeys: boolean;
}) {
  const { data: factor = first } = useServer(PATH, { first });
  const [making, setMaking] = useState<'passkey' | CodeSecret>();
  const [recovery, setRecovery] = useState<string[]>();
  const [removal, setRemoval] = useState<Removal>();
  const [problem, setProblem] = useState<string>();
  const has = factor.passkeys.length > 0 || factor.codesSinceMs !== null;
  const came = async (words: string, given: Given): Promise<void> => {
    setMaking(undefined);
    setRecovery(given.recovery ?? undefined);
    void done(words);
    await refetch(PATH);
  };
  const beginCodes = async (): Promise<void> => {
    setProblem(undefined);
    try {
      setMaking(await request('POST', `${PATH}/codes`));
    } catch (failed) {
      setProblem(wordsOf(failed));
    }
  };
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="second-step">
        <h2 id="second-step" className="mb-2">
          A second step when you sign in
        </h2>
        <p className="mb-3 text-quiet">
          With one, whoever learns your password, or reads your mail, cannot sign in as you.
          {factor.demanded ? ' It is asked of everybody in your role.' : ''} Links in mail go on working
          without it.
        </p>
        {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
        {recovery === undefined ? null : (
          <div className="mb-4">
            <RecoveryCodes codes={recovery} />
          </div>
        )}
        {has ? (
          <ul className="mb-3 border-t border-base-300" aria-label="What the second step is taken with">
            {factor.passkeys.map((passkey) => (
              <Line
                key={passkey.id}
                name={passkey.name}
                about={
                  <>
                    passkey, added <Moment at={passkey.addedMs} zone={zone} />
                    {passkey.usedMs === null ? (
                      ', not used yet'
                    ) : (
                      <>
                        , last used <Moment at={passkey.usedMs} zone={zone} />
                      </>
                    )}
                  </>
                }
                label={`Take away the passkey ${passkey.name}`}
                onRemove={() =>
                  setRemoval({
                    title: `Take away the passkey ${passkey.name}?`,
                    detail:
                      'It no longer signs you in. The device may still show it; it can be deleted there.',
                    button: 'Take it away',
                    act: () => request('DELETE', `${PATH}/passkeys/${passkey.id}`),
                  })
                }
              />
            ))}
            {factor.codesSinceMs === null ? null : (
              <Line
                name="Codes from an app"
                about={
                  <>
                    since <Moment at={factor.codesSinceMs} zone={zone} />
                  </>
                }
                label="Take away the codes from an app"
                onRemove={() =>
                  setRemoval({
                    title: 'Take away the codes from an app?',
                    detail: 'Signing in no longer asks for a code from it.',
                    button: 'Take them away',
                    act: () => request('DELETE', `${PATH}/codes`),
                  })
                }
              />
            )}
            <RecoveryLine left={factor.recoveryLeft} onRemove={setRemoval} />
          </ul>
        ) : null}
        {making === 'passkey' ? (
          <PasskeyForm onMade={came} onClose={() => setMaking(undefined)} />
        ) : making ? (
          <CodesForm of={making} onMade={came} onClose={() => setMaking(undefined)} />
        ) : (
          <div className="flex flex-wrap gap-3">
            {passkeys ? (
              <button type="button" className="btn btn-outline" onClick={() => setMaking('passkey')}>
                Add a passkey
              </button>
            ) : null}
            {factor.codesSinceMs === null ? (
              <button type="button" className="btn btn-outline" onClick={() => void beginCodes()}>
                Use codes from an app
              </button>
            ) : null}
          </div>
        )}
        {removal ? (
          <Confirm
            title={removal.title}
            detail={removal.detail}
            button={removal.button}
            onClose={() => setRemoval(undefined)}
            onConfirm={async () => {
              const given = await removal.act();
              setRecovery(given?.recovery ?? undefined);
              await refetch(PATH);
            }}
          />
        ) : null}
      </section>
    </Awake>
  );
}

function RecoveryLine({ left, onRemove }: { left: number; onRemove: (removal: Removal) => void }) {
  return (
    <li className="flex min-h-11 flex-wrap items-center gap-x-4 border-b border-base-300 py-1">
      <span className="grow">
        Recovery codes
        <span className={`block text-sm ${left < 3 ? 'text-warning' : 'text-quiet'}`}>
          {left} of {RECOVERY_CODES} can still be used
        </span>
      </span>
      <button
        type="button"
        className="btn btn-ghost btn-sm"
        onClick={() =>
          onRemove({
            title: 'Make new recovery codes?',
            detail: 'Those you have no longer count.',
            button: 'Make new ones',
            act: () => request('POST', `${PATH}/recovery`),
          })
        }
      >
        Make new ones
      </button>
    </li>
  );
}

function Line({
  name,
  about,
  label,
  onRemove,
}: {
  name: string;
  about: ReactNode;
  label: string;
  onRemove: () => void;
}) {
  return (
    <li className="flex min-h-11 flex-wrap items-center gap-x-4 border-b border-base-300 py-1">
      <span className="grow" dir="auto">
        {name}
        <span className="block text-sm text-quiet">{about}</span>
      </span>
      <button type="button" className="btn btn-ghost btn-sm" aria-label={label} onClick={onRemove}>
        Take away
      </button>
    </li>
  );
}

/** Why a browser made no passkey, in words. */
function refusal(failed: unknown): unknown {
  if (failed instanceof Error && failed.name === 'InvalidStateError')
    return new ApiProblem(409, { detail: 'This device has a passkey of yours already.' });
  return wasLeft(failed)
    ? new ApiProblem(409, { detail: 'No passkey was made. Press again to try once more.' })
    : failed;
}

interface MakingProps {
  onMade: (words: string, given: Given) => Promise<void>;
  onClose: () => void;
}

function PasskeyForm({ onMade, onClose }: MakingProps) {
  const form = useServerForm({
    values: { name: '' },
    send: async ({ name }) => {
      const path = `${PATH}/passkeys` as const;
      const optionsJSON = await request('POST', path);
      const response = await startRegistration({ optionsJSON }).catch((failed: unknown) => {
        throw refusal(failed);
      });
      const given = await request('PUT', path, { name, response: { ...response } });
      form.reset();
      await onMade('The passkey signs you in from now on, by itself or as the second step.', given);
    },
  });
  return (
    <form className="flex max-w-sm flex-col gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
      <TextField
        form={form}
        name="name"
        label="A name for it, such as Phone"
        maxLength={80}
        autoComplete="off"
      />
      <FormProblem form={form} />
      <Buttons busy={form.formState.isSubmitting} words="Make the passkey" onClose={onClose} />
    </form>
  );
}

function CodesForm({ of, onMade, onClose }: MakingProps & { of: CodeSecret }) {
  const form = useServerForm({
    values: { code: '' },
    send: async (values) => {
      const given = await request('PUT', `${PATH}/codes`, values);
      form.reset();
      await onMade('From now on signing in asks for a code from the app.', given);
    },
  });
  return (
    <form className="flex max-w-xl flex-col gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
      <CodePicture of={of} />
      <TextField
        form={form}
        name="code"
        label="The code it shows now"
        className="max-w-60"
        maxLength={12}
        autoComplete="one-time-code"
      />
      <FormProblem form={form} />
      <Buttons busy={form.formState.isSubmitting} words="Use it from now on" onClose={onClose} />
    </form>
  );
}

const Buttons = ({ busy, words, onClose }: { busy: boolean; words: string; onClose: () => void }) => (
  <div className="flex flex-wrap gap-3">
    <button className="btn btn-primary" disabled={busy}>
      {words}
    </button>
    <button type="button" className="btn btn-ghost" onClick={onClose}>
      Leave it
    </button>
  </div>
);
