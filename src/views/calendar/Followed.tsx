import { useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import { EVERY, type FollowedCalendar } from '../../core/calendar/followed.ts';
import { nearWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';
import { useNow } from '../../ui/useNow.ts';
import { Warnings } from './Warnings.tsx';

const FollowForm = lazily(() => import('./FollowForm.tsx').then((module) => module.FollowForm));
const PATH = '/api/calendar/followed';
const TOPICS = ['calendar'];

/** The calendars elsewhere whose events are sessions here. */
export default function Followed({
  first,
  choices,
  zone,
  nowMs,
}: {
  first: FollowedCalendar[];
  choices: AudienceChoices;
  zone: string;
  nowMs: number;
}) {
  const { data: all = first, error } = useServer(PATH, { first, topics: TOPICS });
  const [open, setOpen] = useState<FollowedCalendar | 'new' | null>(null);
  const now = useNow(nowMs, 30_000);
  return (
    <Awake>
      <p className="mb-1">
        <a className="link-quiet" href="/calendar">
          Calendar
        </a>
      </p>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
        <h1>Other calendars</h1>
        <button type="button" className="btn btn-primary" onClick={() => setOpen('new')}>
          Bring in a calendar
        </button>
      </div>
      <p className="mb-6 max-w-2xl text-quiet">
        What is in a calendar elsewhere becomes sessions here, for whom you say. It is read again and again:
        what moves there moves here, what is called off there is called off here, and whoever it is for is
        told.
      </p>
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {all.length === 0 ? (
        <p className="border-y border-base-300 py-4 text-quiet">
          No calendar is followed. Bring one in by its address (iCalendar, .ics), or as a file.
        </p>
      ) : (
        <ul className="border-t border-base-300">
          {all.map((each) => (
            <Line key={each.id} of={each} zone={zone} nowMs={now} onChange={() => setOpen(each)} />
          ))}
        </ul>
      )}
      {open === null ? null : (
        <FollowForm
          given={open === 'new' ? null : open}
          choices={choices}
          zone={zone}
          nowMs={now}
          onClose={() => setOpen(null)}
          onDone={(said) => {
            setOpen(null);
            void refetch(PATH);
            void done(said);
          }}
        />
      )}
    </Awake>
  );
}

function readWords({ url, readMs, everyMinutes }: FollowedCalendar, zone: string, nowMs: number): string {
  const read = readMs === null ? 'not read yet' : `read ${nearWords(readMs, zone, nowMs)}`;
  if (url === null) return `From a file, ${read}.`;
  return `${new URL(url).host}, ${read}, and again ${EVERY[everyMinutes] ?? `every ${everyMinutes} minutes`}.`;
}

function Line({
  of,
  zone,
  nowMs,
  onChange,
}: {
  of: FollowedCalendar;
  zone: string;
  nowMs: number;
  onChange: () => void;
}) {
  const [ending, setEnding] = useState(false);
  const { busy, error, act } = useActs(() => refetch(PATH));
  return (
    <li className="flex flex-wrap items-start gap-x-6 gap-y-2 border-b border-base-300 py-4">
      <div className="min-w-0 grow basis-80">
        <strong className="text-lg" dir="auto">
          {of.name}
        </strong>
        <span className="block" dir="auto">
          {count(of.sessions, 'session', 'sessions')} ahead, for {of.whomWords}.
        </span>
        <span className="block text-sm text-quiet" dir="auto">
          {readWords(of, zone, nowMs)}
          {of.madeBy === null ? '' : ` Brought in by ${of.madeBy}.`}
        </span>
        {of.trouble === null ? null : (
          <span className="block text-error" dir="auto">
            It could not be read: {of.trouble} What it said before stays.
          </span>
        )}
        {of.warnings.length === 0 ? null : <Warnings words={of.warnings} />}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
      <div className="flex flex-wrap gap-1">
        <button
          type="button"
          className="btn btn-outline btn-sm"
          disabled={busy}
          aria-label={`Read ${of.name} now`}
          onClick={act(async () => {
            await request('POST', `${PATH}/${of.id}/reading`);
            await refetch(PATH);
            void done(`${of.name} is read.`);
          })}
        >
          Read it now
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          aria-label={`Change how ${of.name} is followed`}
          onClick={onChange}
        >
          Change
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          aria-label={`Follow ${of.name} no more`}
          onClick={() => setEnding(true)}
        >
          Follow no more
        </button>
      </div>
      {ending ? <Ending of={of} onClose={() => setEnding(false)} /> : null}
    </li>
  );
}

/** Whether the sessions of a calendar that is followed no more stay or go. */
function Ending({ of, onClose }: { of: FollowedCalendar; onClose: () => void }) {
  const { busy, error, act } = useActs();
  const end = (keep: boolean, said: string) =>
    act(async () => {
      await request('DELETE', `${PATH}/${of.id}?keep=${keep ? 'yes' : 'no'}`);
      onClose();
      await refetch(PATH);
      void done(said);
    });
  return (
    <Dialog
      open
      title={`Follow ${of.name} no more?`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Go on following
          </button>
          <button
            type="button"
            className="btn btn-outline"
            disabled={busy}
            onClick={end(
              false,
              `${of.name} is followed no more, and its sessions ahead are out of the calendar.`,
            )}
          >
            Take its sessions out
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy}
            onClick={end(true, `${of.name} is followed no more. Its sessions are your own now.`)}
          >
            Keep its sessions
          </button>
        </>
      }
    >
      <p>
        It has {count(of.sessions, 'session', 'sessions')} ahead. They can stay as your own, to be changed
        here; or go: dates that somebody has said something of are called off and they are told, the others go
        without a word.
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </Dialog>
  );
}
