import type { Asking } from '../../core/asks/ask.ts';
import { stillOpen, tallyWords, type AskListing } from '../../core/asks/roll.ts';
import { nearWords, shortDate } from '../../core/timing/words.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { useNow } from '../../ui/useNow.ts';
import { useServer } from '../../ui/server.ts';

const KIND_WORDS: Record<Asking['kind'], string> = {
  acknowledgement: 'acknowledgement',
  poll: 'poll',
  'check-in': 'check-in',
};

function stateWords(each: AskListing, zone: string, nowMs: number): string {
  if (each.closedMs !== null) return `closed ${nearWords(each.closedMs, zone, nowMs)}`;
  if (each.deadlineMs === null) return 'open, no deadline';
  return each.deadlineMs > nowMs
    ? `by ${nearWords(each.deadlineMs, zone, nowMs)}`
    : `was due ${nearWords(each.deadlineMs, zone, nowMs)}`;
}

/** Every ask with its roll as a line that fills, the open ones first. */
export default function Answers({
  first,
  desk,
  zone,
  nowMs: startMs,
}: {
  first: AskListing[];
  desk: boolean;
  zone: string;
  nowMs: number;
}) {
  const nowMs = useNow(startMs, 30_000);
  const { data: asks = first } = useServer('/api/asks', { first, topics: [desk ? 'desk' : 'arrivals'] });
  if (asks.length === 0)
    return (
      <p className="text-quiet">
        Nothing has been asked yet. Ask for an acknowledgement, a poll or a check-in when you write, and its
        roll appears here.
      </p>
    );
  const parts = [
    { title: 'Open', found: asks.filter((each) => stillOpen(each, nowMs)) },
    { title: 'Past', found: asks.filter((each) => !stillOpen(each, nowMs)) },
  ];
  return parts.map(({ title, found }) =>
    found.length === 0 ? null : (
      <section key={title} className="mb-8">
        <h2 className="mb-2">{title}</h2>
        <ul className="ledger">
          {found.map((each) => (
            <li key={each.occurrenceId}>
              <time className="margin">{shortDate(each.dueMs, zone)}</time>
              <div>
                <a className="link-quiet font-semibold" href={`/answers/${each.occurrenceId}`} dir="auto">
                  {each.title}
                </a>{' '}
                <span className="text-sm text-quiet">
                  {KIND_WORDS[each.kind]}, {each.author}
                </span>
                <div className="mt-2 max-w-md">
                  <FillLine tally={each.tally} />
                </div>
                <p className="text-sm">{tallyWords(each.tally, each.kind)}</p>
              </div>
              <div className={`state text-sm ${stillOpen(each, nowMs) ? 'text-warning' : 'text-quiet'}`}>
                {stateWords(each, zone, nowMs)}
              </div>
            </li>
          ))}
        </ul>
      </section>
    ),
  );
}
