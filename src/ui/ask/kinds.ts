import type { AskingKind } from '../../core/asks/askWords.ts';
import { ACKNOWLEDGEMENT } from './acknowledgement/shownAcknowledgement.tsx';
import { CHECK_IN } from './check-in/shownCheckIn.tsx';
import type { ShownKind } from './kind.ts';
import { POLL } from './poll/shownPoll.tsx';

/** The kinds of asks by how they are shown, as `core/asks/ask.ts` has them by what is so of them. */
export const SHOWN_KINDS: Record<AskingKind, ShownKind> = {
  acknowledgement: ACKNOWLEDGEMENT,
  poll: POLL,
  'check-in': CHECK_IN,
};
