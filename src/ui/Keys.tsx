import { useEffect, useState } from 'react';
import { Dialog } from './Dialog.tsx';

/** Whether letters go into what has the focus. */
function isWriting(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) ||
      target.isContentEditable ||
      target.closest('dialog') !== null)
  );
}

/** The keys that work on every page, and the list of them. */
export default function Keys({ desk }: { desk: boolean }) {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (event.ctrlKey || event.metaKey || event.altKey || isWriting(event.target)) return;
      if (event.key === '/') {
        event.preventDefault();
        const field = document.querySelector<HTMLInputElement>('input[type="search"]');
        if (field) field.focus();
        else location.assign('/search');
      } else if (event.key === 'n' && desk) location.assign('/write');
      else if (event.key === '?') setOpen(true);
    };
    document.addEventListener('keydown', press);
    return () => document.removeEventListener('keydown', press);
  }, [desk]);
  const keys: [string, string][] = [
    ['/', 'search'],
    ...(desk ? ([['n', 'write']] as [string, string][]) : []),
    ['j and k', 'the next and the one before, in For me'],
    ['?', 'this list'],
  ];
  return (
    <Dialog
      open={open}
      title="Keys"
      onClose={() => setOpen(false)}
      actions={
        <button type="button" className="btn btn-primary" onClick={() => setOpen(false)}>
          Close
        </button>
      }
    >
      <dl className="grid grid-cols-[6rem_1fr] gap-y-2">
        {keys.map(([key, does]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="kbd">{key}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
