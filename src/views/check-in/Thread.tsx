import { useRef, useState } from 'react';
import { useWatch } from 'react-hook-form';
import type { Said } from '../../core/asks/check-in/checkIn.ts';
import type { CheckInPage, Thread as ThreadData } from '../../core/asks/check-in/checkInPage.ts';
import { count } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { request, newKey, wordsOf } from '../../ui/api.ts';
import { CheckField, FormProblem, LinesField } from '../../ui/form/fields.tsx';
import { useKeptForm } from '../../ui/form/useKeptForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';

/** What was replied to one person's check-in, and a place to reply; a reply can say that they are blocked no more. */
export function Thread({
  said,
  page,
  zone,
  onChanged,
}: {
  said: Said;
  page: CheckInPage;
  zone: string;
  onChanged: () => void;
}) {
  const awake = useAwake();
  const stuck = said.blocked && !said.unblocked;
  const [open, setOpen] = useState(stuck);
  const [thread, setThread] = useState<ThreadData>();
  const key = useRef<string | null>(null);
  const [error, setError] = useState<string>();
  const path = `/api/check-ins/${page.occurrenceId}/people/${said.personId}` as const;
  const load = (): void => {
    request('GET', path).then(setThread, (problem: unknown) => setError(wordsOf(problem)));
  };
  useLive(open ? [`roll:${page.occurrenceId}`] : [], load);
  const loadEarlier = (before: number): void => {
    request('GET', `${path}?before=${before}`).then(
      (found) =>
        setThread((now) => ({
          ...found,
          replies: [...found.replies, ...(now?.replies ?? [])],
        })),
      (problem: unknown) => setError(wordsOf(problem)),
    );
  };
  const show = (): void => {
    setOpen(true);
    load();
  };
  const form = useKeptForm({
    keep: `thread:${page.occurrenceId}:${said.personId}`,
    values: { text: '', unblocks: false },
    send: async (reply) => {
      key.current ??= newKey();
      setThread(await request('POST', `${path}/replies`, reply, key.current));
      key.current = null;
      onChanged();
    },
  });
  const text = useWatch({ control: form.control, name: 'text' });
  if (!open)
    return (
      <button type="button" className="link-quiet min-h-11 text-sm" disabled={!awake} onClick={show}>
        {said.replies === 0 ? 'Reply' : count(said.replies, 'reply', 'replies')}
      </button>
    );
  if (!thread && said.replies > 0 && awake && error === undefined)
    return (
      <button type="button" className="link-quiet min-h-11 text-sm" onClick={load}>
        Show {count(said.replies, 'reply', 'replies')}
      </button>
    );
  return (
    <div className="mt-2 border-l-2 border-base-300 pl-3">
      {thread?.earlier ? (
        <button
          type="button"
          className="link-quiet min-h-11 text-sm"
          onClick={() => loadEarlier(thread.earlier ?? 0)}
        >
          Earlier replies
        </button>
      ) : null}
      {thread && thread.replies.length > 0 ? (
        <ul>
          {thread.replies.map((reply) => (
            <li key={reply.id} className="py-1">
              <span className="text-sm text-quiet">
                <span dir="auto">{reply.author}</span>, <Moment at={reply.atMs} zone={zone} />
              </span>
              <p className="whitespace-pre-line" dir="auto">
                {reply.text}
              </p>
            </li>
          ))}
        </ul>
      ) : null}
      <form
        className="mt-1 flex flex-col gap-2"
        onSubmit={(event) => {
          setError(undefined);
          void form.submit(event);
        }}
        noValidate
      >
        <LinesField form={form} name="text" label={`Reply to ${said.name}`} maxLength={1000} />
        {stuck ? (
          <CheckField form={form} name="unblocks" label={`and ${said.name} is blocked no more`} />
        ) : null}
        <FormProblem form={form} />
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        <div className="flex flex-wrap gap-2">
          <button
            type="submit"
            className="btn btn-outline"
            disabled={form.formState.isSubmitting || !awake || text.trim() === ''}
          >
            Reply
          </button>
          {stuck ? (
            <button
              type="button"
              className="btn btn-outline"
              disabled={form.formState.isSubmitting || !awake}
              onClick={() => {
                request('POST', `${path}/unblocked`).then(onChanged, (problem: unknown) =>
                  setError(wordsOf(problem)),
                );
              }}
            >
              Blocked no more
            </button>
          ) : null}
        </div>
      </form>
    </div>
  );
}
