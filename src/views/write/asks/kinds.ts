import type { Ask, AskOf, Asking } from '../../../core/asks/ask.ts';
import { ACKNOWLEDGEMENT } from './acknowledgement/writtenAcknowledgement.tsx';
import { CHECK_IN } from './check-in/writtenCheckIn.tsx';
import type { WrittenKind } from './kind.ts';
import { POLL } from './poll/writtenPoll.tsx';

/** The kinds of asks by how they are written, in the order in which they are offered. */
const KINDS: { [K in Asking['kind']]: WrittenKind<AskOf<K>> } = {
  acknowledgement: ACKNOWLEDGEMENT,
  poll: POLL,
  'check-in': CHECK_IN,
};

export const WRITTEN_KINDS = Object.keys(KINDS) as Asking['kind'][];

/** How the asks of a kind are written. */
export const writtenKind = (kind: Asking['kind']): WrittenKind<Asking> => KINDS[kind] as WrittenKind<Asking>;

/** An ask of another kind, with what both have in common. */
export function turnedInto(kind: Ask['kind'], before: Ask): Ask {
  if (kind === 'nothing') return { kind };
  const { deadline, within, chase, joiners } =
    before.kind === 'nothing' ? { deadline: null, within: null, chase: null, joiners: false } : before;
  return writtenKind(kind).begin({ deadline, within, chase, joiners });
}
