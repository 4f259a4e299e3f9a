import { shortDate, timeWords } from '../../core/timing/words.ts';
import { useAwake } from '../../ui/useAwake.ts';
import type { Settings, ChangeSettings } from './useBoardChanges.ts';

/** A way to set up another board like this one. */
export function PatternSection({ settings }: { settings: Settings }) {
  if (settings.groups.length === 0 || settings.archived) return null;
  return (
    <section aria-labelledby="pattern" className="border-t border-base-300 pt-4">
      <h2 id="pattern">Set up another like it</h2>
      <p className="mb-2 text-sm text-quiet">
        Kept as a pattern, it can be made again in one go: its group, settings, key links, pinned posts, forms
        and automations.
      </p>
      {settings.made ? (
        <p className="mb-2">
          It was made from “{settings.made.pattern}”{settings.made.behind ? ', which has changed since' : ''}:{' '}
          <a className="link-quiet" href={`/patterns/places/${settings.made.id}`}>
            all that was made with it
          </a>
          .
        </p>
      ) : null}
      <a className="btn btn-outline" href={`/boards/${settings.id}/pattern`}>
        Keep as a pattern
      </a>
    </section>
  );
}

/** Archives a board, or opens it again. */
export function ArchiveSection({ settings, onChange }: { settings: Settings; onChange: ChangeSettings }) {
  const awake = useAwake();
  if (settings.denied !== null) return null;
  const archive = (archived: boolean): Promise<boolean> =>
    onChange({ archived }, archived ? 'It is archived.' : 'It is open again.');
  return (
    <section aria-labelledby="end" className="border-t border-base-300 pt-4">
      <h2 id="end">{settings.archived ? 'It is archived' : 'Archive it'}</h2>
      <p className="mb-2 text-sm text-quiet">
        An archived board can still be read and searched by those it belongs to. Nothing is added to it.
      </p>
      <button
        type="button"
        className="btn btn-outline"
        disabled={!awake}
        onClick={() => void archive(!settings.archived)}
      >
        {settings.archived ? 'Bring it back' : 'Archive this board'}
      </button>
    </section>
  );
}

/** What was done with a board's settings, and by whom. */
export function Deeds({ deeds, zone }: { deeds: Settings['deeds']; zone: string }) {
  if (deeds.length === 0) return null;
  return (
    <details className="border-t border-base-300 pt-4">
      <summary className="min-h-11 cursor-pointer link-quiet">What was done here</summary>
      <ul className="ledger">
        {deeds.map((deed, i) => (
          <li key={i}>
            <time className="margin" dateTime={new Date(deed.atMs).toISOString()}>
              {shortDate(deed.atMs, zone)} {timeWords(deed.atMs, zone)}
            </time>
            <span>
              {deed.actor ?? 'Clear Bell'}: {deed.action}
              {deed.changes.map((change) => (
                <span key={change} className="block text-sm text-quiet">
                  {change}
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
