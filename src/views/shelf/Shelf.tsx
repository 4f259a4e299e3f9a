import { useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { AnswerLine, AskedQuestion, Subject } from '../../core/shelf/shelf.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Answers, AskFields, BySubject, Mine } from './shelfParts.tsx';

const SOON_MS = 180;
/** Fewer say too little to look for. */
const LEAST_LETTERS = 3;
const TOPICS = ['shelf'];

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
            reason: null,
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
            <AskFields
              among={best.length > 0}
              note={note}
              named={named}
              onNote={setNote}
              onNamed={setNamed}
              onAsk={() => void settle(null)}
            />
          ) : null}
        </section>
      ) : (
        <BySubject subjects={subjects} subject={subject} under={under} front={front} onSubject={setSubject} />
      )}
      <Mine questions={own} zone={zone} />
    </>
  );
}
