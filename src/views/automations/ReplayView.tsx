import { useState } from 'react';
import type { Automation } from '../../core/automation/automation.ts';
import type { Replay } from '../../core/automation/run.ts';
import { shortDate } from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

/** Days as bars on one line: how much would have been said on each. */
function Days({ replay, zone }: { replay: Replay; zone: string }) {
  const days: { ms: number; said: number }[] = [];
  const said = new Map(replay.days.map((day) => [day.date, day.said]));
  for (let ms = replay.fromMs; ms <= replay.toMs; ms += 86_400_000) {
    const date = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' }).format(ms);
    days.push({ ms, said: said.get(date) ?? 0 });
  }
  const most = Math.max(1, ...days.map((day) => day.said));
  return (
    <div
      className="mt-3"
      role="img"
      aria-label={`On ${count(replay.days.length, 'day', 'days')} of ${days.length}`}
    >
      <div className="flex h-16 items-end gap-px border-b border-base-content">
        {days.map((day) => (
          <span
            key={day.ms}
            className={day.said > 0 ? 'grow bg-primary' : 'grow'}
            style={{ height: `${day.said === 0 ? 0 : Math.max(6, (day.said / most) * 100)}%` }}
            title={`${shortDate(day.ms, zone)}: ${day.said}`}
          />
        ))}
      </div>
      <div className="flex justify-between text-sm text-quiet">
        <span>{shortDate(replay.fromMs, zone)}</span>
        <span>{shortDate(replay.toMs, zone)}</span>
      </div>
    </div>
  );
}

/** Runs what is written over the past weeks without saying it: noise is seen before it is made. */
export function ReplayView({
  id,
  automation,
  zone,
  problem,
}: {
  id: number;
  automation: Automation;
  zone: string;
  problem: string | null;
}) {
  const [replay, setReplay] = useState<Replay>();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const run = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      setReplay(await request('POST', `/api/automations/${id}/replay`, automation));
    } catch (failure) {
      setError(wordsOf(failure));
    }
    setBusy(false);
  };
  return (
    <section aria-label="Replay" className="flex flex-col gap-3">
      <h2 className="text-xl">Replay</h2>
      <p className="text-quiet">What it would have said over the past eight weeks.</p>
      <div>
        <button
          type="button"
          className="btn btn-outline"
          disabled={busy || problem !== null}
          onClick={() => void run()}
        >
          {busy ? 'One moment …' : 'Run it over the past'}
        </button>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {replay ? (
        <div role="status">
          <p className="font-semibold">
            {replay.said === 0
              ? 'It would have said nothing.'
              : `It would have said ${count(replay.said, 'message', 'messages')}${replay.people === 0 ? '' : ` to ${people(replay.people)}`}, on ${count(replay.days.filter((day) => day.said > 0).length, 'day', 'days')}.`}
          </p>
          <p className="text-quiet">
            It really said {replay.reallySaid.toLocaleString('en-GB')}.
            {replay.keptBack > 0
              ? ` ${count(replay.keptBack, 'message', 'messages')} would have been kept back.`
              : ''}
          </p>
          {replay.said > 0 ? <Days replay={replay} zone={zone} /> : null}
          {replay.busiest && replay.busiest.said > 1 ? (
            <p>
              The busiest hour: {replay.busiest.said} from <Moment at={replay.busiest.atMs} zone={zone} />.
            </p>
          ) : null}
          {replay.most.length > 0 ? (
            <p dir="auto">
              Most would have gone to {replay.most.map((each) => `${each.name} (${each.times})`).join(', ')}.
            </p>
          ) : null}
          {replay.missing.length > 0 ? (
            <p className="text-warning" dir="auto">
              Not found: {replay.missing.join(', ')}.
            </p>
          ) : null}
          {replay.notes.map((note) => (
            <p key={note} className="text-sm text-quiet">
              {note}
            </p>
          ))}
        </div>
      ) : null}
    </section>
  );
}
