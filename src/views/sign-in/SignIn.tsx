import type { ReactNode } from 'react';
import { Notice } from '../../ui/Notice.tsx';

interface DemoChoice {
  id: number;
  name: string;
  role: string;
  moderates: string | null;
  station: string | null;
}

const ROLES: [string, (choice: DemoChoice) => boolean][] = [
  ['Coordinators', (choice) => choice.role === 'coordinator'],
  ['Editors', (choice) => choice.role === 'editor'],
  ['Moderators', (choice) => choice.role === 'member' && choice.moderates !== null],
  ['Members', (choice) => choice.role === 'member' && choice.moderates === null],
];

/** The sign-in form and, on the demo, its people in one press. Plain forms: they work before any script has come. */
export function SignIn({
  choices,
  mail,
  error,
  children,
}: {
  choices: DemoChoice[];
  mail: string;
  error: string | null;
  /** Other ways to sign in. */
  children?: ReactNode;
}) {
  return (
    <div className="grid gap-10 md:grid-cols-[20rem_1fr]">
      <div>
        <form method="post" className="flex flex-col gap-4" aria-label="Sign in">
          <label className="flex flex-col gap-1">
            Mail address
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
          {error === null ? null : <Notice tone="error">{error}</Notice>}
          <button className="btn btn-primary">Sign in</button>
          <a className="link-quiet" href="/forgot">
            Forgotten it, or never had one?
          </a>
        </form>
        {children}
      </div>
      {choices.length > 0 ? (
        <section aria-labelledby="demo">
          <h2 id="demo">Or look round as one of the demo people</h2>
          <p className="mb-3 text-quiet">Made-up people of a made-up organisation. One press signs you in.</p>
          <form method="post">
            {ROLES.map(([title, belongs]) => (
              <div key={title} className="grid border-t border-base-300 py-2 sm:grid-cols-[8rem_1fr]">
                <h3 className="pt-2.5 text-base">{title}</h3>
                <ul className="flex flex-col">
                  {choices.filter(belongs).map((choice) => (
                    <li key={choice.id}>
                      <button name="demo" value={choice.id} className="min-h-11 cursor-pointer text-left">
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
          </form>
        </section>
      ) : null}
    </div>
  );
}
