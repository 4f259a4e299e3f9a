import { useState, type SubmitEvent } from 'react';
import { ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

interface DemoChoice {
  id: number;
  name: string;
  role: string;
  moderates: string | null;
  station: string | null;
}

/** The sign-in form and, on the demo, its people in one press. */
export default function SignIn({ choices, next }: { choices: DemoChoice[]; next: string }) {
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);

  const go = async (work: () => Promise<unknown>): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await work();
      location.assign(next);
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  const submit = (event: SubmitEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    void go(() => ask('POST', '/api/sign-in', { mail: form.get('mail'), password: form.get('password') }));
  };
  const roles: [string, (choice: DemoChoice) => boolean][] = [
    ['Coordinators', (choice) => choice.role === 'coordinator'],
    ['Editors', (choice) => choice.role === 'editor'],
    ['Moderators', (choice) => choice.role === 'member' && choice.moderates !== null],
    ['Members', (choice) => choice.role === 'member' && choice.moderates === null],
  ];

  return (
    <div className="grid gap-10 md:grid-cols-[20rem_1fr]">
      <form onSubmit={submit} className="flex flex-col gap-4" aria-label="Sign in">
        <label className="flex flex-col gap-1">
          Mail address
          <input
            name="mail"
            type="text"
            inputMode="email"
            autoComplete="username"
            required
            className="input w-full"
          />
        </label>
        <label className="flex flex-col gap-1">
          Password
          <input
            name="password"
            type="password"
            autoComplete="current-password"
            required
            className="input w-full"
          />
        </label>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        <button className="btn btn-primary" disabled={busy}>
          Sign in
        </button>
      </form>
      {choices.length > 0 ? (
        <section aria-labelledby="demo">
          <h2 id="demo">Or look round as one of the demo people</h2>
          <p className="mb-3 text-quiet">Made-up people of a made-up organisation. One press signs you in.</p>
          {roles.map(([title, belongs]) => (
            <div key={title} className="grid border-t border-base-300 py-2 sm:grid-cols-[8rem_1fr]">
              <h3 className="pt-2.5 text-base">{title}</h3>
              <ul className="flex flex-col">
                {choices.filter(belongs).map((choice) => (
                  <li key={choice.id}>
                    <button
                      type="button"
                      disabled={busy}
                      className="min-h-11 text-left"
                      onClick={() => void go(() => ask('POST', '/api/sign-in/demo', { personId: choice.id }))}
                    >
                      <span className="link-quiet font-semibold text-primary" dir="auto">
                        {choice.name}
                      </span>{' '}
                      <span className="text-quiet">
                        {choice.station ?? ''}
                        {choice.role === 'member' && choice.moderates !== null
                          ? `, moderates ${choice.moderates}`
                          : ''}
                      </span>
                    </button>
                  </li>
                ))}
              </ul>
            </div>
          ))}
        </section>
      ) : null}
    </div>
  );
}
