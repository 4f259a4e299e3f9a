import { useState } from 'react';
import type { SendPage } from '../../core/sends/send.ts';
import { nearWords, spanWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { MoveDialog } from '../run-sheet/MoveDialog.tsx';

interface Props {
  page: SendPage;
  zone: string;
  nowMs: number;
  /** Has what changed shown. */
  onChanged: () => Promise<void>;
}

/** What can be done with a send as a whole: copied, moved, corrected, withdrawn; and of what recurs changed, paused and ended. */
export function Acts({ page, zone, nowMs, onChanged }: Props) {
  const awake = useAwake();
  const { busy, error, act } = useActs(onChanged);
  const [asked, setAsked] = useState<'move' | 'end' | 'withdraw'>();
  const { row } = page;
  const id = row.occurrenceId;
  const step = async (to: 'pause' | 'resume' | 'end'): Promise<void> => {
    await request('POST', `/api/sends/${id}/state`, { step: to });
    await onChanged();
  };
  const open = (to: 'change' | 'correct'): (() => void) =>
    act(async () => {
      const { announcementId } = await request('POST', `/api/sends/${id}/open`, {
        to,
      });
      location.assign(`/write/${announcementId}`);
    });
  const copy = act(async () => {
    const { id: copyId } = await request('POST', `/api/announcements/${row.announcementId}/copy`);
    location.assign(`/write/${copyId}`);
  });
  const reinstate = async (): Promise<void> => {
    await request('POST', `/api/sends/${id}/reinstate`);
    await onChanged();
  };
  const gone = row.state === 'sent' || row.state === 'going out';
  const off = busy || !awake;
  const button = (words: string, press: () => void, style = 'btn-outline') => (
    <button type="button" className={`btn btn-sm ${style}`} disabled={off} onClick={press}>
      {words}
    </button>
  );
  return (
    <>
      <div className="mt-4 flex flex-wrap gap-2">
        {row.kind === 'chase' ? null : button('Copy it with its plan', copy)}
        {row.movable
          ? button(
              `Move ${row.state === 'going out' ? 'the rest of it' : row.recurs ? 'this one' : 'it'} to another time`,
              () => setAsked('move'),
            )
          : null}
        {gone && row.kind === 'send' && !row.withdrawn ? button('Correct it', open('correct')) : null}
        {gone && row.withdrawn ? button('Let it hold again', act(reinstate)) : null}
        {gone && !row.withdrawn ? button('Withdraw it', () => setAsked('withdraw')) : null}
        {row.recurs && row.recurs.state !== 'ended' ? (
          <>
            {button('Change it from the next one on', open('change'))}
            {button(
              row.recurs.state === 'paused' ? 'Let it go on' : 'Pause it',
              act(() => step(row.recurs?.state === 'paused' ? 'resume' : 'pause')),
            )}
            {button('End it', () => setAsked('end'), 'btn-ghost')}
          </>
        ) : null}
      </div>
      {error === undefined ? null : (
        <div className="mt-3">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
      {asked === 'move' ? (
        <MoveDialog
          row={row}
          toMs={row.dueMs}
          zone={zone}
          nowMs={nowMs}
          onClose={() => setAsked(undefined)}
          onDone={() => {
            setAsked(undefined);
            void onChanged();
          }}
        />
      ) : null}
      {asked === 'end' ? (
        <Confirm
          title="End it for good?"
          detail="Nothing of it goes out any more. What has gone stays. It can be copied, but not begun again."
          button="End it"
          onConfirm={() => step('end')}
          onClose={() => setAsked(undefined)}
        />
      ) : null}
      {asked === 'withdraw' ? (
        <SayWhy
          title="Withdraw it?"
          label="What stands in its place in inboxes and under its links. Its posts are hidden, what it asks is closed, and what has not gone does not go. Mail that was handed over cannot be fetched back."
          button="Withdraw it"
          needed
          onSay={async (note) => {
            await request('POST', `/api/sends/${id}/withdraw`, { note });
            await onChanged();
            void done('It is withdrawn.', reinstate);
          }}
          onClose={() => setAsked(undefined)}
        />
      ) : null}
    </>
  );
}

/** "Fri 16:00", or "from Fri 16:00 to Sat 09:00". */
const gatheredWords = (
  { firstMs, lastMs }: NonNullable<SendPage['gathered']>,
  zone: string,
  nowMs: number,
): string =>
  firstMs === lastMs
    ? nearWords(firstMs, zone, nowMs)
    : `from ${nearWords(firstMs, zone, nowMs)} to ${nearWords(lastMs, zone, nowMs)}`;

/** The way back while there is one: before it goes, or of what has not gone yet; and back again of what was skipped. */
export function WayBack({ page, zone, nowMs, onChanged }: Props) {
  const awake = useAwake();
  const { busy, error, act } = useActs(onChanged);
  const { row } = page;
  const id = row.occurrenceId;
  const toCome = page.buckets.some((bucket) => bucket.state === 'planned');
  const waiting = page.counts
    .filter((each) => each.state === 'waiting' || each.state === 'resting')
    .reduce((sum, each) => sum + each.n, 0);
  const { gathered } = page;
  const handing = waiting - (gathered?.people ?? 0);
  const putBack = async (): Promise<void> => {
    await request('POST', `/api/sends/${id}/put-back`);
    await onChanged();
  };
  const takeBack = act(async () => {
    const { announcementId } = await request('POST', `/api/sends/${id}/take-back`);
    if (announcementId !== null) location.assign(`/write/${announcementId}`);
    else {
      await onChanged();
      if (row.recurs && row.state === 'scheduled') void done('It is skipped.', putBack);
    }
  });
  const left = row.dueMs - nowMs;
  const box = 'my-6 flex flex-wrap items-center gap-4 border border-base-300 bg-base-100 p-4';
  const problem = error === undefined ? null : <Notice tone="error">{error}</Notice>;
  const button = (words: string, press: () => void) => (
    <button type="button" className="btn btn-outline" disabled={busy || !awake} onClick={press}>
      {words}
    </button>
  );
  if (row.state === 'scheduled')
    return (
      <div className={box}>
        <p className="text-lg" aria-live={left < 60_000 ? 'off' : 'polite'}>
          {row.recurs?.state === 'paused'
            ? 'It is paused: it does not go out unless it is let go on before.'
            : left > 60_000
              ? `Goes out in ${spanWords(left)}.`
              : left > 0
                ? `Goes out in ${Math.ceil(left / 1000)} s.`
                : 'Going out now.'}
        </p>
        {button(row.recurs ? 'Skip this one' : 'Take it back', takeBack)}
        <p className="text-quiet">
          {row.recurs
            ? 'Skipped, nobody gets this one; the others go on.'
            : row.kind === 'chase'
              ? 'Taken back, nobody is chased this time; what it follows up stays as it is.'
              : 'Taken back, it is a draft again and nobody has got it.'}
        </p>
        {problem}
      </div>
    );
  if (row.state === 'going out' && (toCome || waiting > 0) && !row.withdrawn)
    return (
      <div className={box}>
        <p>
          {toCome ? 'It is on its way round the world.' : null}
          {handing > 0 ? ` ${count(handing, 'still waits', 'still wait')} to be handed over.` : null}
          {gathered
            ? ` ${count(gathered.people, 'mail waits', 'mails wait')} to come together with others, ${gatheredWords(gathered, zone, nowMs)}.`
            : null}
        </p>
        {button('Take back the rest', takeBack)}
        {problem}
      </div>
    );
  if (row.state === 'recalled')
    return (
      <div className={box}>
        <p>
          {row.recurs
            ? 'It was skipped; nobody got this one.'
            : 'It was taken back before it went; nobody got it.'}
        </p>
        {row.recurs && row.recurs.state !== 'ended' && left > 0 ? button('Put it back', act(putBack)) : null}
        {row.recurs ? null : (
          <a className="link-quiet" href={`/write/${row.announcementId}`}>
            Open the draft
          </a>
        )}
        {problem}
      </div>
    );
  return problem;
}
