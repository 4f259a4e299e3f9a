/** What is kept for so long and then forgotten, each kind for itself. */
export const KEPT_KINDS = [
  'deliveries',
  'answers',
  'posts',
  'drafts',
  'runs',
  'calls',
  'handovers',
  'audit',
] as const;
export type KeptKind = (typeof KEPT_KINDS)[number];

export interface KindOfKept {
  title: string;
  /** What is forgotten. */
  goes: string;
  /** What is left of it, so that what was counted is still counted. */
  stays: string;
  /** One and many of what is counted when it is looked at beforehand. */
  one: string;
  many: string;
  /** From when its age is counted. */
  since: string;
  /** It is kept at least so many days: below it, what is still under way would be forgotten. */
  leastDays: number;
  /** How long it is kept where nothing was chosen; null for good. */
  usualDays: number | null;
}

export const KEPT: Readonly<Record<KeptKind, KindOfKept>> = {
  deliveries: {
    title: 'Who was sent what',
    goes: 'To whom an announcement went, by which method, when, and whether they opened it. It is in nobody’s inbox any more, and an audience can no longer ask who got it. What still asks for an answer is kept.',
    stays:
      'How many it reached by each method, how many opened it, how many failed, and how late the last was. What stands on boards stands there.',
    one: 'delivery',
    many: 'deliveries',
    since: 'after the last of it went',
    leastDays: 30,
    usualDays: null,
  },
  answers: {
    title: 'Who answered what',
    goes: 'The names on the roll, whose vote each was, and what was said in check-ins and in reply to them. An ask that nobody closed closes by it; one that closes by itself, or asks whoever joins, is kept until it has.',
    stays: 'How many were asked and answered, as a whole and by station, and the result of every poll.',
    one: 'answer',
    many: 'answers',
    since: 'after the ask closed, or was due where nobody closed it',
    leastDays: 30,
    usualDays: null,
  },
  posts: {
    title: 'What was written on boards',
    goes: 'Posts that people, mail or outside systems wrote, with their replies, reactions, and files that stand nowhere else.',
    stays: 'Announcements; what is pinned, held, reported and not decided, a thank-you, or passed on.',
    one: 'post',
    many: 'posts',
    since: 'after the post and the last reply to it',
    leastDays: 90,
    usualDays: null,
  },
  drafts: {
    title: 'Drafts that nobody went on with',
    goes: 'Drafts that were never sent, with their earlier texts, what was said of them, and pictures and files that stand nowhere else.',
    stays: 'What was sent or taken back, and templates.',
    one: 'draft',
    many: 'drafts',
    since: 'after it was last saved, or something was said of it',
    leastDays: 90,
    usualDays: null,
  },
  runs: {
    title: 'What automations did',
    goes: 'Of each run, of whom or what it spoke, what it kept back and why. Runs that said nothing go altogether.',
    stays: 'What went out, and which automation said it.',
    one: 'run',
    many: 'runs',
    since: 'after the run',
    leastDays: 90,
    usualDays: null,
  },
  calls: {
    title: 'What came through ways in',
    goes: 'The log of calls: when each came, what it carried, and what became of it. The same call made again would be taken as a new one.',
    stays: 'The posts and sends that came of them.',
    one: 'call',
    many: 'calls',
    since: 'after the call',
    leastDays: 7,
    usualDays: 60,
  },
  handovers: {
    title: 'What ways out were told',
    goes: 'The log of events that were handed over or given up, with what each carried. They cannot be sent again.',
    stays: 'Nothing of them; what happened is known where it happened.',
    one: 'event',
    many: 'events',
    since: 'after it was handed over or given up',
    leastDays: 7,
    usualDays: 30,
  },
  audit: {
    title: 'Who did what',
    goes: 'The lines of the audit trail.',
    stays: 'What was done.',
    one: 'line',
    many: 'lines',
    since: 'after it was done',
    leastDays: 365,
    usualDays: null,
  },
};

/** How long each can be kept, in days. */
const CHOICES = [7, 14, 30, 60, 90, 180, 365, 730, 1095, 1825, 2555, 3650] as const;

export const isKeptKind = (kind: string): kind is KeptKind =>
  (KEPT_KINDS as readonly string[]).includes(kind);

/** How long a kind can be kept, in days, the shortest first; the last is null, for good. */
export const choicesOf = (kind: KeptKind): (number | null)[] => [
  ...CHOICES.filter((days) => days >= KEPT[kind].leastDays),
  null,
];

/** So many days in words: "30 days", "2 years", "for good". */
export function keptWords(days: number | null): string {
  if (days === null) return 'for good';
  if (days % 365 !== 0) return `${days} days`;
  return days === 365 ? 'a year' : `${days / 365} years`;
}

/** Whether a choice lets go of more than the one before. */
export const isShorter = (days: number | null, before: number | null): boolean =>
  days !== null && (before === null || days < before);

/** How long a kind is kept. Instants are milliseconds since 1970. */
export interface Kept {
  kind: KeptKind;
  days: number | null;
  /** How long it is kept until the choice holds; the same as `days` where it holds already. */
  daysNow: number | null;
  /** When a shorter choice begins to hold; null where it holds. */
  fromMs: number | null;
  changedBy: string | null;
  changedMs: number | null;
}

/** What a choice would let go of. */
export interface Foreseen {
  kind: KeptKind;
  days: number | null;
  /** How many would go now, and of when the oldest is. */
  n: number;
  oldestMs: number | null;
  /** How many there are at all. */
  of: number;
}

/** How long a shorter choice waits before anything is forgotten by it: so long it can be taken back. */
export const WAIT_HOURS = 24;
