import { useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { AnswerLine, AskedQuestion, Subject } from '../../core/shelf/shelf.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { useAwake } from '../../ui/useAwake.ts';

const SOON_MS = 180;
/** Fewer say too little to look for. */
const LEAST_LETTERS = 3;
const TOPICS = ['shelf'];
const STATE_WORDS: Record<AskedQuestion['state'], string> = {
  helped: 'helped',
  open: 'waits for an answer',
  answered: 'answered',
  closed: 'closed',
};

function Answers({
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

/** Asking in one's own words, with the best answers as one types; or going by subject, from the wide to the narrow. */
export default function Shelf({
  subjects,
  front,
  mine,
  asked,
  begun,
  zone,
}: {
  subjects: Subject[];
  /** What is asked most, and what is new, before anything is asked. */
  front: { most: AnswerLine[]; newest: AnswerLine[] };
  mine: AskedQuestion[];
  asked: string;
  /** The subject the address says is open; 0 for none. */
  begun: number;
  zone: string;
}) {
  const awake = useAwake();
  const [text, setText] = useState(asked);
  const [own, setOwn] = useState(mine);
  const [subject, setSubject] = useState<Subject | undefined>(subjects.find((each) => each.id === begun));
  const [said, setSaid] = useState<string>();
  const [error, setError] = useState<string>();
  const [note, setNote] = useState('');
  const [named, setNamed] = useState(false);
  const key = useRef<string | null>(null);
  const [sought] = useDebounce(text.trim(), SOON_MS);
  useInAddress({ q: sought, subject: subject ? String(subject.id) : '' });
  const asking = text.trim().length >= LEAST_LETTERS;
  const bests = useServer(
    sought.length < LEAST_LETTERS ? null : `/api/shelf/best?q=${encodeURIComponent(sought)}`,
    { topics: TOPICS, keepPrevious: true },
  );
  const best = asking ? (bests.data ?? []) : [];
  const hasLooked = bests.isSuccess && !bests.isPlaceholderData && sought === text.trim();
  const listed = useServer(subject ? `/api/shelf/under?subject=${subject.id}` : null, {
    topics: TOPICS,
  });
  const under = listed.data ?? [];
  const settle = async (helpedBy: AnswerLine | null): Promise<void> => {
    setError(undefined);
    key.current ??= newKey();
    try {
      const { id } = await request(
        'POST',
        '/api/shelf/questions',
        {
          text,
          helpedBy: helpedBy?.id ?? null,
          found: best.length,
          offered: best.map((answer) => answer.id),
          note,
          named,
        },
        key.current,
      );
      key.current = null;
      if (helpedBy === null) {
        setOwn((list) => [
          {
            id,
            by: '',
            text,
            atMs: Date.now(),
            state: 'open',
            found: best.length,
            answerId: null,
            word: null,
            note,
            named,
          },
          ...list,
        ]);
        setSaid('Your question is with the coordinators. You will be told when it is answered.');
      } else setSaid('Good. That helps others to find it too.');
      setText('');
      setNote('');
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  const parent = subject && subjects.find((each) => each.id === subject.parentId);
  const narrower = subjects.filter((each) => each.parentId === (subject?.id ?? null) && each.answers > 0);
  return (
    <>
      <label className="flex flex-col gap-1">
        What do you want to know?
        <input
          type="search"
          className="input input-lg w-full"
          value={text}
          disabled={!awake}
          maxLength={300}
          onChange={(event) => {
            setText(event.target.value);
            setSaid(undefined);
          }}
          dir="auto"
        />
      </label>
      <div aria-live="polite" className="mt-2">
        {said === undefined ? null : <Notice tone="success">{said}</Notice>}
        {error === undefined && !(bests.error ?? listed.error) ? null : (
          <Notice tone="error">{error ?? wordsOf(bests.error ?? listed.error)}</Notice>
        )}
      </div>
      {asking ? (
        <section aria-label="Best answers" className="mt-4">
          {best.length > 0 ? (
            <Answers answers={best} onHelped={(answer) => void settle(answer)} />
          ) : hasLooked ? (
            <p className="text-quiet">Nothing on the shelf answers this yet.</p>
          ) : null}
          {hasLooked ? (
            <div className="mt-3 flex max-w-xl flex-col gap-2">
              <label className="flex flex-col gap-1">
                {best.length > 0
                  ? 'None of these? Say what they lack, if you like'
                  : 'More about it, if you like'}
                <input
                  className="input w-full"
                  value={note}
                  maxLength={600}
                  onChange={(event) => setNote(event.target.value)}
                  dir="auto"
                />
              </label>
              <label className="flex min-h-11 cursor-pointer items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-primary"
                  checked={named}
                  onChange={(event) => setNamed(event.target.checked)}
                />
                I may be named where it is answered for all
              </label>
              <button type="button" className="btn btn-primary self-start" onClick={() => void settle(null)}>
                Ask the coordinators
              </button>
            </div>
          ) : null}
        </section>
      ) : (
        <section aria-labelledby="by-subject" className="mt-8">
          <h2 id="by-subject" className="mb-2">
            {subject ? subject.name : 'Or go by subject'}
          </h2>
          {subject ? (
            <p className="mb-2">
              <button type="button" className="link-quiet py-2" onClick={() => setSubject(undefined)}>
                All subjects
              </button>
              {parent ? (
                <>
                  {' › '}
                  <button type="button" className="link-quiet py-2" onClick={() => setSubject(parent)}>
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
                    onClick={() => setSubject(each)}
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
      )}
      {own.length > 0 ? (
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
                  {question.word === null ? null : <p className="text-quiet">{question.word}</p>}
                </div>
                <div className="state text-sm text-quiet">{STATE_WORDS[question.state]}</div>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
    </>
  );
}
