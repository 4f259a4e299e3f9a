import type { Results } from '../../core/asks/results.ts';
import { tallyWords, type Roll as RollData, type RollListing } from '../../core/asks/roll.ts';
import { list } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { Actions } from './Actions.tsx';
import { ByName } from './ByName.tsx';
import { PollSection } from './PollSection.tsx';
import { AskedWhen, driftWords, Groups, OverTime } from './rollParts.tsx';

/** Who has answered and who has not, as a whole, by group, and by name; it fills while one looks. */
export default function Roll({
  first,
  firstPeople,
  firstResults,
  begin,
  zone,
  nowMs,
}: {
  first: RollData;
  firstPeople: RollListing;
  firstResults: Results;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
  nowMs: number;
}) {
  const id = first.occurrenceId;
  const path = `/api/asks/${id}` as const;
  const topics = [`roll:${id}`];
  // A chase that is planned while one looks is listened to as well: its mail goes after its inboxes.
  const whole = useServer(path, {
    first,
    topics: (roll) => [...topics, ...roll.chases.map((chase) => `occurrence:${chase.occurrenceId}`)],
  });
  const counted = useServer(`${path}/results`, { first: firstResults, topics });
  const roll = whole.data ?? first;
  const results = counted.data ?? firstResults;
  const error = whole.error ?? counted.error;
  const refresh = (): void => void refetch(path);

  const { tally } = roll;
  return (
    <>
      <h1 dir="auto">{roll.title}</h1>
      {error === null ? null : <Notice tone="error">{wordsOf(error)}</Notice>}
      <AskedWhen roll={roll} zone={zone} nowMs={nowMs} />
      {roll.onlyOf === null ? null : (
        <p className="mb-4 border-l-4 border-info pl-3">
          You look after {list(roll.onlyOf, 'and')}, and see who of {roll.onlyOf.length === 1 ? 'it' : 'them'}{' '}
          has answered.
        </p>
      )}
      {roll.statement === '' ? null : (
        <p className="mb-4 border-l-4 border-primary pl-3" dir="auto">
          {roll.statement}
        </p>
      )}
      <section aria-label="The whole roll" className="mb-6">
        <p className="mb-2 font-display text-2xl font-semibold" aria-live="polite">
          {tallyWords(tally, roll.kind)}
        </p>
        <FillLine tally={tally} height={14} />
        <p className="mt-2 text-sm text-quiet">{driftWords(roll)}</p>
      </section>
      {roll.mayAct ? <Actions roll={roll} zone={zone} nowMs={nowMs} onChanged={refresh} /> : null}
      {results.poll ? (
        <PollSection id={id} poll={results.poll} asked={tally.asked} zone={zone} onChanged={refresh} />
      ) : null}
      <OverTime results={results} forgotten={roll.forgottenMs !== null} zone={zone} />
      <div className="grid gap-10 lg:grid-cols-[27rem_minmax(0,1fr)]">
        <div>
          <Groups title="By station" rows={roll.stations} />
          <Groups title={roll.onlyOf === null ? 'By chosen group' : 'By group of yours'} rows={roll.groups} />
        </div>
        <ByName
          roll={roll}
          path={path}
          topics={topics}
          first={firstPeople}
          begin={begin}
          zone={zone}
          nowMs={nowMs}
        />
      </div>
    </>
  );
}
