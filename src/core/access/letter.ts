import { lastsWords, momentWords } from '../timing/words.ts';

/** A mail with a link that lets its reader in; `told` tells of what was done with the account and has no link. */
export const LETTER_KINDS = ['invitation', 'reset', 'sign-in', 'told'] as const;
export type LetterKind = (typeof LETTER_KINDS)[number];

/** The fewest characters of a password. How strong it is beyond that is measured on the server. */
export const MIN_PASSWORD = 12;

/** How long a link of each kind can be used, in hours. */
export const LASTS_HOURS: Record<Exclude<LetterKind, 'told'>, number> = {
  invitation: 21 * 24,
  reset: 2,
  'sign-in': 1,
};

/** How long a link of a kind can be used, in words. */
export const lastsFor = (kind: keyof typeof LASTS_HOURS): string => lastsWords(LASTS_HOURS[kind] * 60);

export const MOST_WORDS = 1000;

/** Where somebody stands with getting in. Instants in milliseconds since 1970. */
export type Access =
  | { state: 'in'; atMs: number }
  | { state: 'no address' }
  | { state: 'not invited' }
  | { state: 'invited'; atMs: number; sentMs: number | null; failed: string | null }
  | { state: 'withdrawn' | 'expired'; atMs: number };

/** What an invitation did: how many were written, and who could not be. */
export interface Invited {
  invited: number;
  /** Have no mail address. */
  withoutAddress: number;
  /** Have signed in before. */
  inAlready: number;
}

/** Where somebody stands with getting in, in words, on the clock of whoever reads it. */
export function accessWords(access: Access, zone: string, nowMs: number): string {
  const at = (ms: number): string => momentWords(ms, zone, nowMs);
  switch (access.state) {
    case 'in':
      return '';
    case 'no address':
      return 'cannot be invited: no mail address';
    case 'not invited':
      return 'has not been invited';
    case 'invited':
      if (access.failed !== null) return `the invitation did not arrive: ${access.failed}`;
      return access.sentMs === null
        ? 'the invitation is on its way'
        : `invited at ${at(access.sentMs)}, not in yet`;
    case 'withdrawn':
      return `the invitation was withdrawn at ${at(access.atMs)}`;
    case 'expired':
      return `the invitation of ${at(access.atMs)} is too old now`;
  }
}

/** Whether there is an invitation that can still be used. */
export const isInvited = (access: Access | undefined): boolean => access?.state === 'invited';

/** Whether an invitation can be sent. */
export const canBeInvited = (access: Access | undefined): boolean =>
  access !== undefined && access.state !== 'in' && access.state !== 'no address';
