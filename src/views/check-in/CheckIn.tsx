import { useState } from 'react';
import type { AskBox as Box } from '../../core/asks/box.ts';
import type { ByQuestion, Question, Said } from '../../core/asks/check-in/checkIn.ts';
import type { CheckInPage } from '../../core/asks/check-in/checkInPage.ts';
import { dateWords, momentWords, nearWords, shortDate, timeWords } from '../../core/timing/words.ts';
import { list, people } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import AskBox from '../../ui/ask/AskBox.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { OneOf } from '../../ui/OneOf.tsx';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Thread } from './Thread.tsx';
import { useServer, refetch } from '../../ui/server.ts';

const GATHERED = ['person', 'question'] as const;

/** An instant on a date, for saying the date. */
const noon = (date: string): number => Date.parse(`${date}T12:00:00Z`);
const dayWords = (date: string): string => dateWords(noon(date), 'UTC');

const stuck = (said: Said): boolean => said.blocked && !said.unblocked;

function Person({
  said,
  questions,
  page,
  zone,
  onChanged,
}: {
  said: Said;
  questions: Question[];
  page: CheckInPage;
  zone: string;
  onChanged: () => void;
}) {
  return (
    <li id={`said-${said.personId}`}>
      <span className="margin">
        <time>{timeWords(said.answeredMs, zone)}</time>
      </span>
      <div>
        <h3 className="text-lg" dir="auto">
          {said.name} <span className="text-sm font-normal text-quiet">{said.station}</span>
        </h3>
        <dl>
          {questions.map((question, place) => {
            const text = said.answers[place];
            if (text === undefined) return null;
            return (
              <div
                key={place}
                className={`mt-1 ${question.kind === 'blocked' && stuck(said) ? 'text-error' : ''}`}
              >
                <dt className="text-sm text-quiet">{question.text}</dt>
                <dd className="whitespace-pre-line" dir="auto">
                  {text}
                </dd>
              </div>
            );
          })}
        </dl>
        <Thread said={said} page={page} zone={zone} onChanged={onChanged} />
      </div>
      <span className={`state text-sm ${stuck(said) ? 'font-semibold text-error' : 'text-quiet'}`}>
        {stuck(said) ? 'blocked' : said.unblocked ? `unblocked, ${said.unblocked.by}` : ''}
      </span>
    </li>
  );
}

function QuestionPart({ part }: { part: ByQuestion }) {
  const { question, answers, counts, sum, mean } = part;
  return (
    <section className="mb-6">
      <h3 className="mb-1 text-lg">{question.text}</h3>
      {counts.length > 0 ? (
        <p className="mb-1">{counts.map(({ text, n }) => `${text}: ${n}`).join(', ')}.</p>
      ) : null}
      {sum === null || mean === null ? null : (
        <p className="mb-1">
          In all <span className="figure">{Number(sum.toFixed(2))}</span>, on average{' '}
          <span className="figure">{Number(mean.toFixed(2))}</span>.
        </p>
      )}
      {answers.length === 0 ? (
        <p className="text-quiet">Nobody yet.</p>
      ) : (
        <ul>
          {answers.map((answer) => (
            <li key={answer.personId} className="border-t border-base-300 py-2">
              <span className="text-quiet" dir="auto">
                {answer.name}:
              </span>{' '}
              <span className="whitespace-pre-line" dir="auto">
                {answer.text}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** One day's check-in: the blocked on top, by person or by question, who is missing, and the days before. */
export default function CheckIn({
  first,
  box,
  zone,
  nowMs,
}: {
  first: CheckInPage;
  /** What is asked of who looks; null where nothing is. */
  box: Box | null;
  zone: string;
  nowMs: number;
}) {
  const path = `/api/check-ins/${first.occurrenceId}` as const;
  const query = useServer(path, { first, topics: [`roll:${first.occurrenceId}`] });
  const page = query.data ?? first;
  const [by, setBy] = useState<(typeof GATHERED)[number]>('person');
  const [closing, setClosing] = useState(false);
  const awake = useAwake();
  const id = page.occurrenceId;
  const refresh = (): Promise<void> => refetch(path);
  const { error = query.error ? wordsOf(query.error) : undefined, act } = useActs(refresh);
  const checkedIn = page.forgotten?.answered ?? page.said.length;
  const blocked = page.said.filter(stuck).length;
  return (
    <>
      <h1 dir="auto">{page.title}</h1>
      <p className="mb-4 text-quiet">
        {dayWords(page.date)}
        {page.closedMs !== null
          ? `. Closed ${nearWords(page.closedMs, zone, nowMs)}: it can be read and not changed any more.`
          : page.closesMs === null
            ? '.'
            : `, open until ${nearWords(page.closesMs, zone, nowMs)}.`}{' '}
        <a className="link-quiet" href={`/check-ins/${id}/history`}>
          All that was said, by person, question and date
        </a>
      </p>
      {page.days.length > 1 ? (
        <nav aria-label="Days" className="mb-4 flex flex-wrap gap-2">
          {page.days.slice(0, 10).map((day) => (
            <a
              key={day.occurrenceId}
              href={`/check-ins/${day.occurrenceId}`}
              aria-current={day.occurrenceId === id ? 'page' : undefined}
              className="flex min-h-11 items-center border-b-2 border-transparent px-2 aria-[current=page]:border-primary aria-[current=page]:font-semibold"
            >
              {shortDate(noon(day.date), 'UTC')}
            </a>
          ))}
        </nav>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {box ? <AskBox occurrenceId={id} first={box} zone={zone} nowMs={nowMs} linked={false} /> : null}
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <p aria-live="polite" className="font-display text-xl font-semibold">
          {checkedIn} of {people(checkedIn + page.missingCount)} checked in
          {blocked > 0 ? <span className="text-error">, {people(blocked)} blocked</span> : null}
        </p>
        <OneOf
          label="Gathered"
          className="ml-auto"
          options={GATHERED.map((each) => ({ value: each, words: `By ${each}` }))}
          value={by}
          onChange={setBy}
        />
        {page.mayClose && page.closedMs === null ? (
          <button
            type="button"
            className="btn btn-outline"
            disabled={!awake}
            onClick={() => setClosing(true)}
          >
            Close it
          </button>
        ) : null}
      </div>
      <h2 className="sr-only">What was said</h2>
      {page.said.length === 0 ? (
        <p className="border-y border-base-300 py-3 text-quiet">
          {page.forgotten === null
            ? 'Nobody has checked in yet. What they say appears here as it comes.'
            : `Who checked in, and what they said, was forgotten on ${momentWords(page.forgotten.atMs, zone, nowMs)}, as was chosen for all answers. How many did is kept.`}
        </p>
      ) : by === 'person' ? (
        <ul className="ledger">
          {page.said.map((said) => (
            <Person
              key={said.personId}
              said={said}
              questions={page.questions}
              page={page}
              zone={zone}
              onChanged={() => void refresh()}
            />
          ))}
        </ul>
      ) : (
        page.byQuestion.map((part) => <QuestionPart key={part.place} part={part} />)
      )}
      {page.missingCount > 0 && page.forgotten === null ? (
        <section className="mt-6" aria-labelledby="missing">
          <h2 id="missing">Not heard from</h2>
          <p dir="auto">
            {list(
              page.missing.map((person) => person.name),
              'and',
            )}
            {page.missingCount > page.missing.length
              ? ` and ${people(page.missingCount - page.missing.length)} more`
              : ''}
            .
          </p>
        </section>
      ) : null}
      <Dialog
        open={closing}
        title="Close this check-in?"
        onClose={() => setClosing(false)}
        actions={
          <>
            <button type="button" className="btn btn-outline" onClick={() => setClosing(false)}>
              Keep it open
            </button>
            <button
              type="button"
              className="btn btn-primary"
              onClick={() => {
                act(async () => {
                  await request('POST', `/api/asks/${id}/close`);
                  await refresh();
                })();
                setClosing(false);
              }}
            >
              Close it
            </button>
          </>
        }
      >
        <p>After that it can be read and not changed any more. Replies can still be written.</p>
      </Dialog>
    </>
  );
}
