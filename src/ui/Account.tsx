import { useRef, useState } from 'react';
import type { Theme } from './AccountPanel.tsx';
import { lazily } from './lazily.tsx';

const AccountPanel = lazily(
  () => import('./AccountPanel.tsx').then((module) => module.AccountPanel),
  () => null,
);

/** Who is signed in; under the name, what is theirs to choose, and the ways out. */
export default function Account({ name, role, theme }: { name: string; role: string; theme: Theme }) {
  const button = useRef<HTMLButtonElement>(null);
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        ref={button}
        type="button"
        dir="auto"
        className="flex min-h-11 min-w-0 cursor-pointer items-center link-quiet"
        aria-haspopup="dialog"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className="truncate">{name}</span>
      </button>
      {open ? (
        <AccountPanel trigger={button} role={role} theme={theme} onClose={() => setOpen(false)} />
      ) : null}
    </>
  );
}
