import { useState } from 'react';
import type { BoardView } from '../../core/boards/reading.ts';
import { DateField } from '../../ui/DateField.tsx';
import { pathWith } from '../../ui/server.ts';
import { Dialog } from '../../ui/Dialog.tsx';

/** Moves to the next post below that is not read, and gives it the focus. */
function toNextUnread(): void {
  const fresh = [...document.querySelectorAll<HTMLElement>('[data-fresh]')];
  const below = fresh.find((each) => each.getBoundingClientRect().top > 120) ?? fresh[0];
  below?.scrollIntoView({ block: 'start' });
  below?.querySelector<HTMLElement>('h3 a')?.focus({ preventScroll: true });
}

/** How much of a board is not read, and the ways to it: the next of it, only that, all of it as read, or from a day on back. */
export function Looking({
  boardId,
  view,
  unread,
  here,
  onReadAll,
}: {
  boardId: number;
  view: BoardView;
  /** Counted up to a hundred. */
  unread: number;
  /** Whether something that is not read stands on the page. */
  here: boolean;
  onReadAll: () => void;
}) {
  const [asking, setAsking] = useState(false);
  const [day, setDay] = useState(view.until ?? '');
  const path = `/boards/${boardId}` as const;
  return (
    <div className="mb-3 flex flex-wrap items-center gap-x-4 text-sm" role="group" aria-label="What is shown">
      <span className="font-semibold">
        {view.until === undefined ? '' : `Up to ${view.until}. `}
        {unread === 0 ? 'Nothing is unread' : `${unread >= 100 ? '100 or more' : unread} not read`}
      </span>
      {here ? (
        <button type="button" className="link-quiet py-2" onClick={toNextUnread}>
          Next unread
        </button>
      ) : null}
      {view.only === 'unread' ? (
        <a className="link-quiet py-2" href={pathWith(path, { until: view.until })}>
          Show the read ones too
        </a>
      ) : unread > 0 ? (
        <a className="link-quiet py-2" href={pathWith(path, { only: 'unread', until: view.until })}>
          Only the unread
        </a>
      ) : null}
      {unread > 0 ? (
        <button type="button" className="link-quiet py-2" onClick={onReadAll}>
          Mark all as read
        </button>
      ) : null}
      <button type="button" className="link-quiet py-2" onClick={() => setAsking(true)}>
        Go to a date
      </button>
      {view.until === undefined ? null : (
        <a className="link-quiet py-2" href={pathWith(path, { only: view.only })}>
          The latest
        </a>
      )}
      <Dialog
        open={asking}
        title="Go to a date"
        onClose={() => setAsking(false)}
        actions={
          <>
            <button type="button" className="btn btn-ghost" onClick={() => setAsking(false)}>
              Stay here
            </button>
            <a
              className={`btn btn-primary ${day === '' ? 'btn-disabled' : ''}`}
              aria-disabled={day === ''}
              href={day === '' ? undefined : pathWith(path, { only: view.only, until: day })}
            >
              Go there
            </a>
          </>
        }
      >
        <DateField
          label="The posts of that day, and those before it"
          className="max-w-60"
          value={day}
          onChange={setDay}
        />
      </Dialog>
    </div>
  );
}
