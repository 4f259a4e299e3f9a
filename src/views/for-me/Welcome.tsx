import { useEffect, useState } from 'react';
import type { ForMe } from '../../core/inbox/inbox.ts';
import { count } from '../../core/words.ts';

/** What a browser offers where the page can be kept on the device as an application. */
interface InstallOffer extends Event {
  prompt: () => Promise<unknown>;
}

/** For whoever comes in for the first time: what is here, what is asked of them, and how they are told. */
export function Welcome({
  welcome,
  open,
  onDone,
}: {
  welcome: NonNullable<ForMe['welcome']>;
  /** How many things wait for their answer. */
  open: number;
  onDone: () => void;
}) {
  const [offer, setOffer] = useState<InstallOffer>();
  useEffect(() => {
    const keep = (event: Event): void => {
      event.preventDefault();
      setOffer(event as InstallOffer);
    };
    addEventListener('beforeinstallprompt', keep);
    return () => removeEventListener('beforeinstallprompt', keep);
  }, []);
  const shown = welcome.boards.slice(0, 6);
  return (
    <section aria-labelledby="welcome" className="mb-8 border border-base-300 bg-base-100 p-4 sm:p-6">
      <h2 id="welcome">Your first day here</h2>
      <div className="mt-3 grid gap-6 sm:grid-cols-3">
        <div>
          <h3 className="text-base">What is here</h3>
          <p className="text-sm text-quiet">
            Under <em>For me</em> lies what was sent to you, and what is new on your boards.
          </p>
          <ul className="mt-1">
            {shown.map((board) => (
              <li key={board.id}>
                <a className="link-quiet inline-block py-1" href={`/boards/${board.id}`} dir="auto">
                  {board.name}
                </a>
              </li>
            ))}
          </ul>
          {welcome.boards.length > shown.length ? (
            <a className="link-quiet inline-block py-1 text-sm" href="/boards">
              and {welcome.boards.length - shown.length} more boards
            </a>
          ) : null}
        </div>
        <div>
          <h3 className="text-base">What is asked of you</h3>
          <p className="text-sm text-quiet">
            {open === 0
              ? 'Nothing at this moment. What needs your answer always stands on top here.'
              : `${count(open, 'thing needs', 'things need')} your answer, and ${open === 1 ? 'stands' : 'stand'} right below. One press is enough for most.`}
          </p>
          <p className="mt-2 text-sm text-quiet">
            Looking for something? The{' '}
            <a className="link-quiet" href="/shelf">
              shelf
            </a>{' '}
            holds what others asked before you.
          </p>
        </div>
        <div>
          <h3 className="text-base">How you are told</h3>
          <p className="text-sm text-quiet">
            Nothing urgent waits for you to look: it comes by the ways you choose. When it is to be quiet for
            you, it is.
          </p>
          <p className="mt-2 flex flex-wrap gap-2">
            <a className="btn btn-outline btn-sm" href="/settings#notices">
              Choose how, and when it is quiet
            </a>
            {offer ? (
              <button type="button" className="btn btn-ghost btn-sm" onClick={() => void offer.prompt()}>
                Keep it on this device
              </button>
            ) : null}
          </p>
        </div>
      </div>
      <button type="button" className="btn btn-primary mt-4" onClick={onDone}>
        Show me what is for me
      </button>
    </section>
  );
}
