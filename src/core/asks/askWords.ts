export type AskKind = 'nothing' | 'acknowledgement' | 'poll' | 'check-in';
/** The kinds that want something back. */
export type AskingKind = Exclude<AskKind, 'nothing'>;

export const DEED: Record<AskingKind, string> = {
  acknowledgement: 'acknowledge',
  poll: 'vote',
  'check-in': 'check in',
};

/** The kind of an ask that somebody was asked. */
export const askingKind = (kind: AskKind): AskingKind => (kind === 'nothing' ? 'acknowledgement' : kind);

/** What is done to answer: "acknowledge", "vote", "check in". */
export const deedWords = (kind: AskingKind): string => DEED[kind];

/** What somebody did who has answered: "acknowledged", "voted", "checked in". */
export const doneWords = (kind: AskingKind): string =>
  ({ acknowledgement: 'acknowledged', poll: 'voted', 'check-in': 'checked in' })[kind];
