import { useState } from 'react';
import { READ_EVERY, type Following } from '../../core/sheets/following.ts';
import type { SheetHead } from '../../core/sheets/sheet.ts';
import { nearWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

/** What a sheet follows: from where, how often, when it was read, and what is wrong with it. */
export function Follow({
  sheet,
  following,
  zone,
  nowMs,
  onChange,
}: {
  sheet: SheetHead;
  following: Following;
  zone: string;
  nowMs: number;
  onChange: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const [asks, setAsks] = useState<'take out' | 'stop' | null>(null);
  const path = `/api/sheets/${sheet.id}/source` as const;
  const again = async (): Promise<void> => refetch(`/api/sheets/${sheet.id}`);
  const read = async (force: boolean): Promise<void> => {
    setBusy(true);
    try {
      const { trouble } = await request('POST', `${path}/read`, { force });
      if (trouble === null) void done('It is as it is there.');
    } catch (error) {
      void done(wordsOf(error));
    } finally {
      setBusy(false);
      await again();
    }
  };
  const { trouble, warnings, readMs } = following;
  return (
    <section className="mb-4 border-y border-base-300 py-3" aria-label="What it follows">
      <p className="max-w-3xl" dir="auto">
        It follows <span className="break-all">{following.url}</span>, read{' '}
        {READ_EVERY[following.everyMinutes] ?? 'again and again'}.{' '}
        {count(following.records, 'record comes', 'records come')} from there.{' '}
        {readMs === null ? 'It has not been read yet.' : `Read ${nearWords(readMs, zone, nowMs)}.`}
      </p>
      {trouble === null ? null : (
        <Notice tone="warning">
          It could not be read: {trouble} Its records stay as they were. It is tried again{' '}
          {nearWords(following.nextMs, zone, nowMs)}.
        </Notice>
      )}
      {warnings.length > 0 ? (
        <ul className="mt-1 text-sm text-warning">
          {warnings.map((warning) => (
            <li key={warning} dir="auto">
              {warning}
            </li>
          ))}
        </ul>
      ) : null}
      {sheet.mayKeep ? (
        <div className="mt-2 flex flex-wrap gap-2">
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={busy}
            onClick={() =>
              trouble?.startsWith('It would take out') ? setAsks('take out') : void read(false)
            }
          >
            Read it now
          </button>
          <button type="button" className="btn btn-outline btn-sm" onClick={onChange}>
            Change what it follows
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsks('stop')}>
            Follow it no more
          </button>
        </div>
      ) : null}
      {asks === 'take out' ? (
        <Confirm
          title="Take them out?"
          detail={`${trouble ?? ''} What is not at the source any more goes from this sheet, with its history.`}
          button="Read it and take them out"
          onConfirm={async () => {
            setAsks(null);
            await read(true);
          }}
          onClose={() => setAsks(null)}
        />
      ) : null}
      {asks === 'stop' ? (
        <Confirm
          title="Follow it no more?"
          detail="Its records stay as they are, and are changed here from then on."
          button="Follow it no more"
          onConfirm={async () => {
            await request('DELETE', path);
            setAsks(null);
            await again();
          }}
          onClose={() => setAsks(null)}
        />
      ) : null}
    </section>
  );
}
