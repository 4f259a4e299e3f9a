import type { BoxParts, ShownKind } from '../kind.ts';
import { lazily } from '../../lazily.tsx';
import { AsleepCheckInForm } from './Questions.tsx';

// What takes the answers comes after the page, and only where something is to be answered.
const CheckInForm = lazily(
  () => import('./CheckInForm.tsx').then((module) => module.CheckInForm),
  AsleepCheckInForm,
);

function Say({ box, asking, waits, busy, asleep, send }: BoxParts) {
  const { checkIn } = box;
  if (!checkIn || !asking || waits) return null;
  return (
    <CheckInForm
      occurrenceId={box.occurrenceId}
      checkIn={checkIn}
      answered={box.answeredMs !== null}
      busy={busy}
      asleep={asleep}
      onSend={send}
    />
  );
}

function WhereSaid({ box, linked, signed }: BoxParts) {
  return linked && !signed ? (
    <p className="mt-3">
      <a className="link-quiet" href={`/check-ins/${box.occurrenceId}`}>
        What everybody said
      </a>
    </p>
  ) : null;
}

export const CHECK_IN: ShownKind = {
  heading: () => null,
  change: 'Change what I said',
  Answer: Say,
  Below: WhereSaid,
};
