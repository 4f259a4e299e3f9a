import { useMemo, useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { SessionPage, ShownDate } from '../../core/calendar/shown.ts';
import { comingWords } from '../../core/calendar/words.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';
import { useNow } from '../../ui/useNow.ts';
import { DateDialog } from './DateDialog.tsx';
import { Participants } from './Participants.tsx';
import { SessionForm } from './SessionForm.tsx';

type Open = { kind: 'change' } | { kind: 'call off' } | null;
const FEW = 6;
const CALLED_OFF = {
  label: 'A word to them, if you like',
  button: 'Call it off',
  needed: false,
  most: 300,
} as const;

/** A session for whoever looks after the calendar: when and for whom, its dates, and who comes. */
export default function Session({
  first,
  zone,
  nowMs,
  choices,
}: {
  first: SessionPage;
  zone: string;
  nowMs: number;
  choices: AudienceChoices;
}) {
  const path = `/api/calendar/${first.id}` as const;
  const topics = useMemo(() => [`session:${first.id}`], [first.id]);
  const { data: page = first, error } = useServer(path, { first, topics });
  const [open, setOpen] = useState<Open>(null);
  const [all, setAll] = useState(false);
  const now = useNow(nowMs, 60_000);
  const ahead = page.dates.filter((date) => date.startMs > now);
  const past = page.dates.filter((date) => date.startMs <= now);
  const close = (): void => setOpen(null);
  return (
    <Awake>
      <p className="mb-1">
        <a className="link-quiet" href="/calendar">
          Calendar
        </a>
      </p>
      <h1 dir="auto">{page.title}</h1>
      <p className="mt-1 mb-4 max-w-2xl text-lg" dir="auto">
        It takes place {page.whenWords}, for {page.whomWords} ({people(page.people)})
        {page.capacity === null ? '' : `, at most ${page.capacity.toLocaleString('en-GB')} of them`}.
      </p>
      {page.followedName === null ? null : (
        <p className="mb-4 text-quiet" dir="auto">
          It follows{' '}
          <a className="link-quiet" href="/calendar/followed">
            {page.followedName}
          </a>
          : what, when and where it is, and whether it takes place, is changed there.
        </p>
      )}
      {page.calledOff ? (
        <p className="mb-4 border-l-4 border-error pl-3 font-semibold text-error">Called off</p>
      ) : (
        <div className="mb-6 flex flex-wrap gap-2">
          <button type="button" className="btn btn-outline" onClick={() => setOpen({ kind: 'change' })}>
            Change it
          </button>
          {page.followedName === null ? (
            <button type="button" className="btn btn-ghost" onClick={() => setOpen({ kind: 'call off' })}>
              Call it off
            </button>
          ) : null}
        </div>
      )}
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      <section className="mb-8" aria-labelledby="ahead">
        <h2 id="ahead" className="mb-1">
          Ahead
        </h2>
        {ahead.length === 0 ? <p className="py-3 text-quiet">No date of it is ahead.</p> : null}
        <ul aria-labelledby="ahead" className="border-t border-base-300">
          {(all ? ahead : ahead.slice(0, FEW)).map((date) => (
            <DateLine
              key={date.id}
              date={date}
              zone={zone}
              nowMs={now}
              sessionId={page.id}
              own={page.followedName === null}
            />
          ))}
        </ul>
        {ahead.length > FEW && !all ? (
          <button type="button" className="btn btn-ghost btn-sm mt-2" onClick={() => setAll(true)}>
            {ahead.length - FEW} more
          </button>
        ) : null}
      </section>
      {past.length > 0 ? (
        <section aria-labelledby="past">
          <h2 id="past" className="mb-1">
            Before
          </h2>
          <ul aria-labelledby="past" className="border-t border-base-300">
            {past.map((date) => (
              <DateLine
                key={date.id}
                date={date}
                zone={zone}
                nowMs={now}
                sessionId={page.id}
                own={page.followedName === null}
              />
            ))}
          </ul>
        </section>
      ) : null}
      {open?.kind === 'change' ? (
        <SessionForm
          session={page}
          zone={zone}
          nowMs={now}
          choices={choices}
          onClose={close}
          onDone={() => {
            close();
            void done('It is changed, and those it is for are told of new times and places.');
            void refetch(path);
          }}
        />
      ) : null}
      {open?.kind === 'call off' ? (
        <SayWhy
          {...CALLED_OFF}
          title={`Call off ${page.title}?`}
          detail="None of its dates ahead takes place. Whoever it is for is told, except those who have said no. It cannot be undone."
          onClose={close}
          onSay={async (note) => {
            await request('POST', `${path}/call-off`, { note });
            await refetch(path);
          }}
        />
      ) : null}
    </Awake>
  );
}

/** A date with what can be done for it, and who comes. */
function DateLine({
  date,
  zone,
  nowMs,
  sessionId,
  own,
}: {
  date: ShownDate;
  zone: string;
  nowMs: number;
  sessionId: number;
  /** Whether it is changed here, and not in another calendar. */
  own: boolean;
}) {
  const [open, setOpen] = useState<'move' | 'call off' | null>(null);
  const [listed, setListed] = useState(false);
  const { busy, error, act } = useActs();
  const page = `/api/calendar/${sessionId}`;
  const path = `/api/calendar/dates/${date.id}` as const;
  const when = momentWords(date.startMs, zone, nowMs);
  const isAhead = date.startMs > nowMs;
  const after = (said: string): void => {
    setOpen(null);
    void done(said);
    void refetch(page);
  };
  return (
    <li className="border-b border-base-300 py-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <div className="min-w-0 grow basis-64">
          <p className="figure">
            <strong className={date.calledOff ? 'line-through' : ''}>{when}</strong>
            {date.zone === zone
              ? ''
              : ` (${momentWords(date.startMs, date.zone, nowMs)} in ${zoneWords(date.zone)})`}
          </p>
          <p className="text-sm text-quiet" dir="auto">
            {date.calledOff ? <strong className="text-error">Called off. </strong> : null}
            {comingWords(date)}
            {date.place === '' ? '' : `; ${date.place}`}
            {date.note === '' ? '' : `; ${date.note}`}
          </p>
        </div>
        <button
          type="button"
          className="btn btn-outline btn-sm"
          aria-expanded={listed}
          aria-label={`Who comes ${when}`}
          onClick={() => setListed(!listed)}
        >
          Who comes
        </button>
        {isAhead && !date.calledOff ? (
          <>
            <button
              type="button"
              className="btn btn-outline btn-sm"
              disabled={busy}
              aria-label={`Announce ${when}`}
              onClick={act(async () => {
                const draft = await request('POST', `${path}/announce`);
                location.assign(`/write/${draft.id}`);
              })}
            >
              Announce it
            </button>
            {own ? (
              <>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  aria-label={`Move ${when}`}
                  onClick={() => setOpen('move')}
                >
                  Move it
                </button>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  aria-label={`Call off ${when}`}
                  onClick={() => setOpen('call off')}
                >
                  Call it off
                </button>
              </>
            ) : null}
          </>
        ) : null}
        {isAhead && date.calledOff && own ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={busy}
            aria-label={`Let ${when} take place`}
            onClick={act(async () => {
              await request('DELETE', `${path}/call-off`);
              after('It takes place, and those it is for are told.');
            })}
          >
            Let it take place
          </button>
        ) : null}
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {listed ? <Participants date={date} zone={zone} nowMs={nowMs} /> : null}
      {open === 'move' ? (
        <DateDialog
          date={date}
          onClose={() => setOpen(null)}
          onDone={() => after('It is changed, and those it is for are told.')}
        />
      ) : null}
      {open === 'call off' ? (
        <SayWhy
          {...CALLED_OFF}
          title={`Call off ${when}?`}
          detail="Whoever it is for is told, except those who have said no. It can be let take place again."
          onClose={() => setOpen(null)}
          onSay={async (note) => {
            await request('POST', `${path}/call-off`, { note });
            after('It is called off, and those it is for are told.');
          }}
        />
      ) : null}
    </li>
  );
}
