import { useEffect, useState } from 'react';
import { Dialog } from './Dialog.tsx';
import { isPageKey } from './pageKeys.ts';

/** The list of the keys that work on every page, opened by a question mark. */
export default function Keys({ desk }: { desk: boolean }) {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (isPageKey(event) && event.key === '?') setOpen(true);
    };
    document.addEventListener('keydown', press);
    return () => document.removeEventListener('keydown', press);
  }, []);
  const keys: [string, string][] = [
    ['/', 'search'],
    ...(desk ? ([['n', 'write']] as [string, string][]) : []),
    ['j and k', 'the next and the one before, in For me'],
    ...(desk
      ? ([
          ['d, w, f', 'day, week, fortnight of the run sheet'],
          ['← →, t', 'before, after, and today there'],
        ] as [string, string][])
      : []),
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
