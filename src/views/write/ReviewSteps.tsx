import { useState } from 'react';
import type { AtDesk } from '../../core/desk/sharing.ts';
import { wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';
import type { Draft } from './draft.ts';

export type ReviewStep = 'hand on' | 'clear' | 'return';

/** Asks whom one hands a draft on to: somebody by name, or whoever may clear it. */
function WhoReviews({
  draftId,
  onHandOn,
  onClose,
}: {
  draftId: number;
  onHandOn: (asked: AtDesk | null) => void;
  onClose: () => void;
}) {
  const reviewers = useServer(`/api/announcements/${draftId}/reviewers`);
  const [asked, setAsked] = useState<number | null>(null);
  const able = reviewers.data ?? [];
  return (
    <Dialog
      open
      title="Hand on for review"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Go on writing
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={reviewers.data === undefined}
            onClick={() => onHandOn(able.find((person) => person.id === asked) ?? null)}
          >
            Hand it on
          </button>
        </>
      }
    >
      {reviewers.error === null ? null : <Notice tone="error">{wordsOf(reviewers.error)}</Notice>}
      <label className="flex flex-col gap-1">
        Who is asked to look at it
        <select
          className="select w-full"
          value={asked ?? ''}
          onChange={(event) => setAsked(event.target.value === '' ? null : Number(event.target.value))}
        >
          <option value="">whoever may clear it</option>
          {able.map((person) => (
            <option key={person.id} value={person.id}>
              {person.name}
            </option>
          ))}
        </select>
      </label>
      <p className="text-sm text-quiet">
        Whoever is asked by name is told at once. Nobody clears what they wrote in themselves.
      </p>
      {reviewers.data && able.length === 0 ? (
        <Notice tone="warning">
          Nobody else may clear it as it is planned now: choose who gets it first, or ask a coordinator.
        </Notice>
      ) : null}
    </Dialog>
  );
}

/** What can be done about a second person's clearance, as the draft stands. */
export function ReviewSteps({
  draftId,
  state,
  mayClear,
  busy,
  onStep,
}: {
  draftId: number;
  state: Draft['review'];
  mayClear: boolean;
  busy: boolean;
  onStep: (step: ReviewStep, asked?: AtDesk | null) => void;
}) {
  const [choosing, setChoosing] = useState(false);
  return (
    <>
      {state === 'none' ? (
        <button type="button" className="btn btn-outline" disabled={busy} onClick={() => setChoosing(true)}>
          Hand on for review
        </button>
      ) : null}
      {choosing ? (
        <WhoReviews
          draftId={draftId}
          onHandOn={(asked) => {
            setChoosing(false);
            onStep('hand on', asked);
          }}
          onClose={() => setChoosing(false)}
        />
      ) : null}
      {state === 'for review' && mayClear ? (
        <>
          <button type="button" className="btn btn-outline" disabled={busy} onClick={() => onStep('clear')}>
            Clear it
          </button>
          <button type="button" className="btn btn-ghost" disabled={busy} onClick={() => onStep('return')}>
            Return it
          </button>
        </>
      ) : null}
    </>
  );
}
