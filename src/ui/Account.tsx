import { ask } from './api.ts';
import { forgetPages } from './kept.ts';

type Theme = 'day' | 'night' | 'system';

/** Who is signed in, the choice of day or night, and the ways out. */
export default function Account({ name, role, theme }: { name: string; role: string; theme: Theme }) {
  const choose = async (next: Theme): Promise<void> => {
    await ask('POST', '/api/theme', { theme: next });
    location.reload();
  };
  const leave = async (everywhere: boolean): Promise<void> => {
    await ask('POST', '/api/sign-out', { everywhere });
    await forgetPages();
    location.assign('/sign-in');
  };
  const themes: [Theme, string][] = [
    ['day', 'Day'],
    ['night', 'Night'],
    ['system', 'As the device'],
  ];
  return (
    <details className="relative">
      <summary className="flex min-h-11 cursor-pointer list-none items-center link-quiet" dir="auto">
        {name}
      </summary>
      <div className="floating absolute right-0 z-30 w-64 border border-base-300 bg-base-100 p-4">
        <p className="text-quiet">Signed in as {role}.</p>
        <fieldset className="my-3">
          <legend className="text-sm text-quiet">Colours</legend>
          {themes.map(([value, words]) => (
            <label key={value} className="flex min-h-9 cursor-pointer items-center gap-2">
              <input
                type="radio"
                name="theme"
                className="radio radio-sm radio-primary"
                checked={theme === value}
                onChange={() => void choose(value)}
              />
              {words}
            </label>
          ))}
        </fieldset>
        <a className="btn btn-ghost btn-block" href="/settings">
          Quiet hours, notices, calendar
        </a>
        <button type="button" className="btn btn-outline btn-block" onClick={() => void leave(false)}>
          Sign out
        </button>
        <button type="button" className="btn btn-ghost btn-block mt-2" onClick={() => void leave(true)}>
          Sign out everywhere
        </button>
      </div>
    </details>
  );
}
