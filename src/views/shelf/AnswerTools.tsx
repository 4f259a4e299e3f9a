import { useState } from 'react';
import type { Subject } from '../../core/shelf/shelf.ts';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { AnswerForm, type DraftAnswer } from './AnswerForm.tsx';

/** Under an answer: whether it helped; and for those who write the shelf, changing it and publishing it to all. */
export default function AnswerTools({
  id,
  question,
  published,
  writes,
  subjects,
}: {
  id: number;
  question: string;
  published: boolean;
  writes: boolean;
  subjects: Subject[];
}) {
  const awake = useAwake();
  const [said, setSaid] = useState<string>();
  const [error, setError] = useState<string>();
  const [draft, setDraft] = useState<DraftAnswer>();
  const [takingOff, setTakingOff] = useState(false);
  const [isPublished, setPublished] = useState(published);
  const act = async (work: () => Promise<void>): Promise<void> => {
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  if (draft)
    return (
      <AnswerForm
        first={draft}
        answerId={id}
        subjects={subjects}
        onDone={() => location.reload()}
        onCancel={() => setDraft(undefined)}
      />
    );
  return (
    <div className="mt-6 border-t border-base-300 pt-4">
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <div className="flex flex-wrap gap-3">
        {isPublished && said === undefined ? (
          <>
            <button
              type="button"
              className="btn btn-outline"
              disabled={!awake}
              onClick={() =>
                void act(async () => {
                  await request(
                    'POST',
                    '/api/shelf/questions',
                    { text: question, helpedBy: id, found: 1 },
                    newKey(),
                  );
                  setSaid('Good. That helps others to find it too.');
                })
              }
            >
              This helped
            </button>
            <a className="btn btn-ghost" href={`/shelf?q=${encodeURIComponent(question)}`}>
              It did not: ask the coordinators
            </a>
          </>
        ) : null}
        {writes ? (
          <>
            {isPublished ? null : (
              <button
                type="button"
                className="btn btn-primary"
                disabled={!awake}
                onClick={() =>
                  void act(async () => {
                    await request('POST', `/api/shelf/answers/${id}/publish`);
                    setPublished(true);
                    setSaid('It is on the shelf for all.');
                  })
                }
              >
                Publish to all
              </button>
            )}
            <button
              type="button"
              className="btn btn-ghost"
              disabled={!awake}
              onClick={() => void act(async () => setDraft(await request('GET', `/api/shelf/answers/${id}`)))}
            >
              Change
            </button>
            <button
              type="button"
              className="btn btn-ghost"
              disabled={!awake}
              onClick={() => setTakingOff(true)}
            >
              Take it off the shelf
            </button>
          </>
        ) : null}
      </div>
      {takingOff ? (
        <Confirm
          title={`Take “${question}” off the shelf?`}
          detail="It cannot be brought back."
          button="Take it off"
          onClose={() => setTakingOff(false)}
          onConfirm={async () => {
            await request('DELETE', `/api/shelf/answers/${id}`);
            location.assign('/shelf');
          }}
        />
      ) : null}
    </div>
  );
}
