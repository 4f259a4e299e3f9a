import type { AnswerLine, AskedQuestion, Subject } from '../../core/shelf/shelf.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { useAwake } from '../../ui/useAwake.ts';

const STATE_WORDS: Record<AskedQuestion['state'], string> = {
  helped: 'helped',
  open: 'waits for an answer',
  answered: 'answered',
  closed: 'closed',
};

/** Answers of the shelf, line by line. */
export function Answers({
  answers,
  onHelped,
}: {
  answers: readonly AnswerLine[];
  /** Where somebody asked in their own words: whether this was it. */
  onHelped?: (answer: AnswerLine) => void;
}) {
  return (
    <ul className="ledger">
      {answers.map((answer) => (
        <li key={answer.id}>
          <span className="margin text-sm text-quiet">{answer.subject}</span>
          <div>
            <a className="link-quiet text-lg font-semibold" href={`/shelf/${answer.id}`} dir="auto">
              {answer.question}
            </a>
            <p className="text-quiet" dir="auto">
              {answer.excerpt}
            </p>
          </div>
          <div className="state">
            {onHelped ? (
              <button
                type="button"
                className="btn btn-outline btn-sm"
                aria-label={`This helped: ${answer.question}`}
                onClick={() => onHelped(answer)}
              >
                This helped
              </button>
            ) : null}
          </div>
        </li>
      ))}
    </ul>
  );
}

/** What is said with a question to the coordinators. */
export function AskFields({
  among,
  note,
  named,
  onNote,
  onNamed,
  onAsk,
}: {
  /** Whether some answers were offered. */
  among: boolean;
  note: string;
  named: boolean;
  onNote: (note: string) => void;
  onNamed: (named: boolean) => void;
  onAsk: () => void;
}) {
  return (
    <div className="mt-3 flex max-w-xl flex-col gap-2">
      <label className="flex flex-col gap-1">
        {among ? 'None of these? Say what they lack, if you like' : 'More about it, if you like'}
        <input
          className="input w-full"
          value={note}
          maxLength={600}
          onChange={(event) => onNote(event.target.value)}
          dir="auto"
        />
      </label>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={named}
          onChange={(event) => onNamed(event.target.checked)}
        />
        I may be named where it is answered for all
      </label>
      <button type="button" className="btn btn-primary self-start" onClick={onAsk}>
        Ask the coordinators
      </button>
    </div>
  );
}

/** Going by subject, from the wide to the narrow; before one is chosen, what is asked most and what is new. */
export function BySubject({
  subjects,
  subject,
  under,
  front,
  onSubject,
}: {
  subjects: Subject[];
  subject: Subject | undefined;
  /** The answers under it. */
  under: readonly AnswerLine[];
  front: { most: AnswerLine[]; newest: AnswerLine[] };
  onSubject: (subject: Subject | undefined) => void;
}) {
  const awake = useAwake();
  const parent = subject && subjects.find((each) => each.id === subject.parentId);
  const narrower = subjects.filter((each) => each.parentId === (subject?.id ?? null) && each.answers > 0);
  return (
    <section aria-labelledby="by-subject" className="mt-8">
      <h2 id="by-subject" className="mb-2">
        {subject ? subject.name : 'Or go by subject'}
      </h2>
      {subject ? (
        <p className="mb-2">
          <button type="button" className="link-quiet py-2" onClick={() => onSubject(undefined)}>
            All subjects
          </button>
          {parent ? (
            <>
              {' › '}
              <button type="button" className="link-quiet py-2" onClick={() => onSubject(parent)}>
                {parent.name}
              </button>
            </>
          ) : null}
        </p>
      ) : null}
      {narrower.length > 0 ? (
        <ul className="mb-4 flex flex-wrap gap-2">
          {narrower.map((each) => (
            <li key={each.id}>
              <button
                type="button"
                className="flex min-h-11 items-center gap-2 rounded border border-base-content/40 bg-base-100 px-3 hover:bg-base-200"
                disabled={!awake}
                onClick={() => onSubject(each)}
              >
                {each.name}
                <span className="figure text-sm text-quiet">{each.answers}</span>
              </button>
            </li>
          ))}
        </ul>
      ) : subject ? null : (
        <p className="text-quiet">The shelf is empty. Ask above; what is answered can be put here.</p>
      )}
      {subject ? (
        <Answers answers={under} />
      ) : (
        <>
          {front.most.length > 0 ? (
            <>
              <h2 className="mt-6 mb-1">Asked most</h2>
              <Answers answers={front.most} />
            </>
          ) : null}
          {front.newest.length > 0 ? (
            <>
              <h2 className="mt-6 mb-1">New on the shelf</h2>
              <Answers answers={front.newest} />
            </>
          ) : null}
        </>
      )}
    </section>
  );
}

/** What one has asked oneself, and what became of it. */
export function Mine({ questions: own, zone }: { questions: readonly AskedQuestion[]; zone: string }) {
  if (own.length === 0) return null;
  return (
    <section aria-labelledby="mine" className="mt-8">
      <h2 id="mine" className="mb-1">
        {count(own.length, 'question', 'questions')} of mine
      </h2>
      <ul className="ledger">
        {own.map((question) => (
          <li key={question.id}>
            <time className="margin text-sm" dateTime={new Date(question.atMs).toISOString()}>
              <span className="block">{shortDate(question.atMs, zone)}</span>
              {timeWords(question.atMs, zone)}
            </time>
            <div>
              {question.answerId === null ? (
                <span dir="auto">{question.text}</span>
              ) : (
                <a className="link-quiet font-semibold" href={`/shelf/${question.answerId}`} dir="auto">
                  {question.text}
                </a>
              )}
              {question.note === '' ? null : (
                <p className="text-sm text-quiet" dir="auto">
                  {question.note}
                </p>
              )}
              {question.reason === null ? null : <p className="text-quiet">{question.reason}</p>}
            </div>
            <div className="state text-sm text-quiet">{STATE_WORDS[question.state]}</div>
          </li>
        ))}
      </ul>
    </section>
  );
}
