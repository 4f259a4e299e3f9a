import { useEffect } from 'react';
import { doneWords } from '../../core/asks/askWords.ts';
import type { ForMeLine, InboxItem } from '../../core/inbox/inbox.ts';
import { timeWords } from '../../core/timing/words.ts';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { refetch } from '../../ui/server.ts';
import { Waiting } from './Waiting.tsx';

function Line({ line, zone }: { line: ForMeLine; zone: string }) {
  return (
    <li>
      <time className="margin" dateTime={new Date(line.wentMs).toISOString()}>
        {timeWords(line.wentMs, zone)}
        {line.read ? null : <span className="block font-sans text-sm font-semibold text-primary">new</span>}
      </time>
      <div>
        <a
          className={`link-quiet ${line.read ? '' : 'font-semibold'}`}
          data-line
          data-fresh={line.read ? undefined : ''}
          href={line.path}
          dir="auto"
        >
          {line.title}
        </a>{' '}
        <ImportanceWord importance={line.importance} />
        <p className="text-quiet" dir="auto">
          {line.excerpt}
        </p>
      </div>
      <div className="state text-sm text-quiet">
        {line.board === null ? null : <span className="block">{line.board}</span>}
        {line.asked ? (
          line.answeredMs === null ? (
            <span className="text-warning">needs your answer</span>
          ) : (
            <span className="text-success">
              {line.asks === 'nothing' ? 'answered' : doneWords(line.asks)}
            </span>
          )
        ) : null}
      </div>
    </li>
  );
}

/** Arrow keys, or j and k, go from line to line. */
export function useLineKeys(): void {
  useEffect(() => {
    const step = (event: KeyboardEvent): void => {
      const by = { j: 1, k: -1 }[event.key];
      const target = event.target as HTMLElement;
      if (
        !by ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)
      )
        return;
      const lines = [...document.querySelectorAll<HTMLAnchorElement>('a[data-line]')];
      const at = lines.indexOf(document.activeElement as HTMLAnchorElement);
      lines[at < 0 ? 0 : Math.max(0, Math.min(lines.length - 1, at + by))]?.focus();
    };
    document.addEventListener('keydown', step);
    return () => document.removeEventListener('keydown', step);
  }, []);
}

/** Gives the focus to the next line below that is not read. */
function toNextUnread(): void {
  const fresh = [...document.querySelectorAll<HTMLElement>('a[data-fresh]')];
  const at = fresh.indexOf(document.activeElement as HTMLElement);
  fresh[at < 0 ? 0 : (at + 1) % fresh.length]?.focus();
}

/** How much is not read, and what can be done about it. */
export function ReadWords({
  unread,
  more,
  only,
  onOnly,
  onAllRead,
}: {
  unread: number;
  /** Whether there is more than is shown. */
  more: boolean;
  /** Whether only what is not read is shown. */
  only: boolean;
  onOnly: () => void;
  onAllRead: () => void;
}) {
  return (
    <p className="flex flex-wrap items-baseline gap-x-4 text-sm text-quiet">
      {unread === 0 ? 'All read' : more ? `${unread} of these not read` : `${unread} not read`}
      {unread === 0 && !only ? null : (
        <button type="button" className="link-quiet py-2" aria-pressed={only} onClick={onOnly}>
          {only ? 'Show the read ones too' : 'Only the unread'}
        </button>
      )}
      {unread === 0 ? null : (
        <>
          <button type="button" className="link-quiet py-2" onClick={toNextUnread}>
            Next unread
          </button>
          <button type="button" className="link-quiet py-2" onClick={onAllRead}>
            Mark all as read
          </button>
        </>
      )}
    </p>
  );
}

/** What still needs an answer. */
export function WaitingList({
  items,
  open,
  zone,
  nowMs,
  onDone,
}: {
  items: InboxItem[];
  /** How many of them have no answer yet. */
  open: number;
  zone: string;
  nowMs: number;
  onDone: (occurrenceId: number, answeredMs: number) => void;
}) {
  return (
    <section aria-labelledby="waiting" className="mb-8 border-l-4 border-primary bg-base-100">
      <h2 id="waiting" className="px-3 pt-2 text-base">
        {open === 0 ? 'All answered' : open === 1 ? 'One needs your answer' : `${open} need your answer`}
      </h2>
      <ul>
        {items.map((item) => (
          <Waiting
            key={item.occurrenceId}
            item={item}
            onSent={() => void refetch('/api/for-me')}
            zone={zone}
            nowMs={nowMs}
            onDone={(answeredMs) => onDone(item.occurrenceId, answeredMs)}
          />
        ))}
      </ul>
    </section>
  );
}

/** Everything that came, by day. */
export function Days({ days, zone }: { days: ReadonlyMap<string, ForMeLine[]>; zone: string }) {
  return [...days].map(([day, list]) => (
    <section key={day} className="mb-6">
      <h2 className="mb-1 text-base text-quiet">{day}</h2>
      <ul className="ledger">
        {list.map((line) => (
          <Line key={line.key} line={line} zone={zone} />
        ))}
      </ul>
    </section>
  ));
}
