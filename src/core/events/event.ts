import { z } from 'zod';
import { DECISIONS } from '../boards/decision.ts';
import { topics } from './topics.ts';

const id = z.int().positive();
const ids = z.array(id);
/** Most people whose own pages are made to look again by one event. */
const MOST_NAMED = 100;

/**
 * What a kind of event holds, which version that is, what it is about (events about the same are followed up in order),
 * and which live topics it makes look again.
 */
interface EventKindOf<S extends z.ZodType> {
  version: number;
  schema: S;
  subject: (detail: z.infer<S>) => string;
  topics: (detail: z.infer<S>) => string[];
}

const first = <S extends z.ZodType>(
  schema: S,
  subject: EventKindOf<S>['subject'],
  topicsOfDetail: EventKindOf<S>['topics'],
): EventKindOf<S> => ({ version: 1, schema, subject, topics: topicsOfDetail });

const onPost = z.strictObject({ post: id, board: id });
const onReply = z.strictObject({ reply: id, post: id, board: id });
const onBoard = z.strictObject({ board: id });
const onDraft = z.strictObject({ announcement: id });
const onOccurrence = z.strictObject({ occurrence: id });
const onAnswer = z.strictObject({ answer: id });
const onPerson = z.strictObject({ person: id });
const onAutomation = z.strictObject({ automation: id });

const post = ({ post: of }: { post: number }): string => `post:${of}`;
const reply = ({ reply: of }: { reply: number }): string => `reply:${of}`;
const board = ({ board: of }: { board: number }): string => `board:${of}`;
const draft = ({ announcement }: { announcement: number }): string => `draft:${announcement}`;
const occurrence = ({ occurrence: of }: { occurrence: number }): string => `occurrence:${of}`;
const person = ({ person: of }: { person: number }): string => `person:${of}`;
const automation = ({ automation: of }: { automation: number }): string => `automation:${of}`;
const answer = ({ answer: of }: { answer: number }): string => `answer:${of}`;

const postAndBoard = (of: { post: number; board: number }): string[] => [
  topics.board(of.board),
  topics.post(of.post),
];
const draftAndDesk = (of: { announcement: number }): string[] => [topics.draft(of.announcement), topics.desk];
const occurrenceAndDesk = (of: { occurrence: number }): string[] => [
  topics.desk,
  topics.occurrence(of.occurrence),
];

/** Every kind of event, by its name: a noun and what became of it. */
export const EVENTS = {
  // Posts on boards
  'post.published': first(onPost, post, (of) => [...postAndBoard(of), topics.arrivals]),
  'post.held': first(onPost, post, (of) => [topics.board(of.board), topics.desk]),
  'post.changed': first(onPost, post, postAndBoard),
  'post.decided': first(
    z.strictObject({ ...onPost.shape, decision: z.enum(DECISIONS), note: z.string(), by: id }),
    post,
    (of) => [...postAndBoard(of), topics.desk, topics.arrivals],
  ),
  'post.withdrawn': first(onPost, post, (of) => [...postAndBoard(of), topics.arrivals]),
  'post.pinned': first(onPost, post, postAndBoard),
  'post.opened': first(z.strictObject({ ...onPost.shape, person: id }), post, (of) => [
    topics.person(of.person),
  ]),
  'post.reported': first(
    z.strictObject({ report: id, board: id }),
    (of) => `report:${of.report}`,
    (of) => [topics.board(of.board), topics.desk],
  ),
  'report.dismissed': first(
    z.strictObject({ report: id, board: id }),
    (of) => `report:${of.report}`,
    (of) => [topics.board(of.board), topics.desk],
  ),
  // Replies
  'reply.published': first(onReply, reply, postAndBoard),
  /** A reply of Clear Bell's own, of which those asked are told in another way. */
  'reply.recorded': first(onReply, reply, postAndBoard),
  'reply.changed': first(onReply, reply, (of) => [topics.post(of.post)]),
  'reply.decided': first(
    z.strictObject({
      ...onReply.shape,
      to: z.enum(['up', 'hidden', 'deleted']),
      note: z.string(),
      by: id,
    }),
    reply,
    postAndBoard,
  ),
  'reaction.changed': first(
    z.strictObject({ post: id.nullable(), board: id.nullable(), occurrence: id.nullable() }),
    (of) => (of.post === null ? `occurrence:${of.occurrence}` : `post:${of.post}`),
    (of) => [
      ...(of.post === null ? [] : [topics.post(of.post)]),
      ...(of.board === null ? [] : [topics.board(of.board)]),
      ...(of.occurrence === null ? [] : [topics.occurrence(of.occurrence)]),
    ],
  ),
  // The calendar
  'session.changed': first(
    z.strictObject({ session: id }),
    (of) => `session:${of.session}`,
    (of) => [topics.calendar, topics.session(of.session)],
  ),
  'calendar.followed': first(
    z.strictObject({ followed: id }),
    (of) => `followed:${of.followed}`,
    () => [topics.calendar],
  ),
  'session.answered': first(
    z.strictObject({ session: id, date: id, people: ids }),
    (of) => `session:${of.session}`,
    (of) => [
      topics.session(of.session),
      ...of.people.slice(0, MOST_NAMED).map((each) => topics.person(each)),
    ],
  ),
  // Boards
  'board.made': first(onBoard, board, (of) => [topics.desk, topics.board(of.board)]),
  'board.changed': first(onBoard, board, (of) => [topics.desk, topics.board(of.board)]),
  'board.seen': first(z.strictObject({ board: id, person: id }), board, (of) => [topics.person(of.person)]),
  'moderator.changed': first(
    z.strictObject({ board: id, person: id, appointed: z.boolean() }),
    board,
    (of) => [topics.board(of.board), topics.person(of.person)],
  ),
  // The shelf
  'question.asked': first(
    z.strictObject({ question: id }),
    (of) => `question:${of.question}`,
    () => [topics.desk, topics.shelf],
  ),
  'question.settled': first(
    z.strictObject({ question: id, answer: id.nullable(), note: z.string() }),
    (of) => `question:${of.question}`,
    () => [topics.desk, topics.shelf],
  ),
  'answer.changed': first(onAnswer, answer, () => [topics.desk, topics.shelf]),
  'answer.removed': first(onAnswer, answer, () => [topics.shelf]),
  'subject.added': first(
    z.strictObject({ subject: id }),
    (of) => `subject:${of.subject}`,
    () => [topics.shelf],
  ),
  // Drafts
  'draft.reviewed': first(onDraft, draft, draftAndDesk),
  'draft.commented': first(onDraft, draft, draftAndDesk),
  /** Somebody may open it now to comment on it, or may no longer. */
  'draft.shared': first(
    z.strictObject({ announcement: id, person: id, by: id, shared: z.boolean() }),
    draft,
    draftAndDesk,
  ),
  /** What was handed on or cleared was changed; of one that was cleared these people are told. */
  'draft.uncleared': first(
    z.strictObject({ announcement: id, revision: id, tell: ids }),
    draft,
    draftAndDesk,
  ),
  // Sends and what they reach
  'send.planned': first(onOccurrence, occurrence, occurrenceAndDesk),
  'occurrence.changed': first(onOccurrence, occurrence, occurrenceAndDesk),
  'occurrence.reached': first(
    z.strictObject({ occurrence: id, roll: id, boards: ids, posted: z.boolean() }),
    occurrence,
    (of) => [
      ...occurrenceAndDesk(of),
      topics.roll(of.roll),
      topics.arrivals,
      ...of.boards.map((each) => topics.board(each)),
    ],
  ),
  'occurrence.corrected': first(
    z.strictObject({ occurrence: id, boards: ids, asksAgain: z.boolean() }),
    occurrence,
    (of) => [
      ...occurrenceAndDesk(of),
      ...of.boards.map((each) => topics.board(each)),
      ...(of.asksAgain ? [topics.roll(of.occurrence), topics.arrivals] : []),
    ],
  ),
  'occurrence.withdrawn': first(
    z.strictObject({ occurrence: id, boards: ids, posts: ids, withdrawn: z.boolean() }),
    occurrence,
    (of) => [
      ...occurrenceAndDesk(of),
      ...of.boards.map((each) => topics.board(each)),
      topics.roll(of.occurrence),
      topics.arrivals,
    ],
  ),
  'mail.handled': first(
    z.strictObject({ occurrences: ids }),
    () => 'mail',
    (of) => [topics.desk, ...of.occurrences.map((each) => topics.occurrence(each))],
  ),
  'sign-up.withdrawn': first(onOccurrence, occurrence, (of) => [topics.occurrence(of.occurrence)]),
  'sign-up.made': first(onOccurrence, occurrence, (of) => [topics.occurrence(of.occurrence)]),
  'work.retried': first(
    z.strictObject({ occurrence: id.nullable() }),
    () => 'work',
    () => [topics.desk],
  ),
  // What is asked
  'ask.answered': first(onOccurrence, occurrence, (of) => [
    ...occurrenceAndDesk(of),
    topics.roll(of.occurrence),
  ]),
  'ask.changed': first(onOccurrence, occurrence, (of) => [topics.roll(of.occurrence)]),
  'ask.closed': first(onOccurrence, occurrence, (of) => [
    ...occurrenceAndDesk(of),
    topics.roll(of.occurrence),
    topics.arrivals,
  ]),
  'chase.planned': first(onOccurrence, occurrence, (of) => [topics.desk, topics.roll(of.occurrence)]),
  /** Somebody said something in a check-in, or said it anew. */
  'check-in.said': first(z.strictObject({ occurrence: id, person: id }), occurrence, () => []),
  'check-in.replied': first(
    z.strictObject({ occurrence: id, person: id, reply: id, by: id }),
    occurrence,
    (of) => [topics.roll(of.occurrence)],
  ),
  'check-in.unblocked': first(z.strictObject({ occurrence: id, person: id }), occurrence, (of) => [
    topics.roll(of.occurrence),
    topics.person(of.person),
  ]),
  // People and groups
  'person.added': first(onPerson, person, () => [topics.people]),
  'person.changed': first(onPerson, person, (of) => [topics.people, topics.person(of.person)]),
  'person.left': first(onPerson, person, () => [topics.people]),
  'person.returned': first(onPerson, person, () => [topics.people]),
  /** Was added by mistake and is gone again, before anything reached them. */
  'person.removed': first(onPerson, person, () => [topics.people]),
  /** Notices reached these people, or so many that they are not named. */
  'person.notified': first(
    z.strictObject({ people: ids, many: z.boolean() }),
    () => 'notices',
    (of) => [...of.people.map((each) => topics.person(each)), ...(of.many ? [topics.arrivals] : [])],
  ),
  'group.changed': first(
    z.strictObject({ group: id }),
    (of) => `group:${of.group}`,
    (of) => [topics.group(of.group)],
  ),
  /** Somebody came into a group that automations watch, or went out of it; each coming has an id of its own. */
  'group.joined': first(
    z.strictObject({ group: id, comings: ids }),
    (of) => `group:${of.group}`,
    () => [],
  ),
  'group.left': first(
    z.strictObject({ group: id, comings: ids }),
    (of) => `group:${of.group}`,
    () => [],
  ),
  // Records and automations
  'records.changed': first(
    /** `changed`: of one record that was changed, what the columns that changed held and hold. */
    z.strictObject({
      sheet: id,
      records: ids,
      form: z.boolean(),
      changed: z.record(z.string(), z.object({ before: z.string(), after: z.string() })).optional(),
    }),
    (of) => `sheet:${of.sheet}`,
    (of) => [topics.sheet(of.sheet)],
  ),
  'sheet.changed': first(
    z.strictObject({ sheet: id }),
    (of) => `sheet:${of.sheet}`,
    (of) => [topics.sheet(of.sheet)],
  ),
  'automation.changed': first(onAutomation, automation, (of) => [
    topics.automations,
    topics.automation(of.automation),
  ]),
  'automation.ran': first(z.strictObject({ ...onAutomation.shape, run: id }), automation, (of) => [
    topics.automations,
    topics.automation(of.automation),
  ]),
  // Gateways
  'hook.called': first(
    z.strictObject({ hook: id }),
    (of) => `hook in:${of.hook}`,
    (of) => [topics.gateways, topics.hookIn(of.hook)],
  ),
  'hook.changed': first(
    z.strictObject({ hook: id, way: z.enum(['in', 'out']) }),
    (of) => `hook ${of.way}:${of.hook}`,
    (of) => [topics.gateways, of.way === 'in' ? topics.hookIn(of.hook) : topics.hookOut(of.hook)],
  ),
  'hook.handed over': first(
    z.strictObject({ hook: id }),
    (of) => `hook out:${of.hook}`,
    (of) => [topics.gateways, topics.hookOut(of.hook)],
  ),
  'group.membership changed': first(
    z.strictObject({ group: id, joined: ids, left: ids }),
    (of) => `group:${of.group}`,
    (of) => [topics.group(of.group)],
  ),
};

export type EventKind = keyof typeof EVENTS;
export type Detail<K extends EventKind> = z.infer<(typeof EVENTS)[K]['schema']>;

/** An event as it is stored: what it holds is read with the schema of its kind and version. */
export interface StoredEvent {
  id: number;
  kind: string;
  version: number;
  detail: unknown;
}

export type ReadEvent = { [K in EventKind]: { kind: K; detail: Detail<K> } }[EventKind];

const isKind = (kind: string): kind is EventKind => Object.hasOwn(EVENTS, kind);

/** @throws where this version of Clear Bell does not know the kind or its version, or what it holds does not fit */
export function readEvent({ kind, version, detail }: StoredEvent): ReadEvent {
  if (!isKind(kind) || EVENTS[kind].version !== version)
    throw new Error(`An event “${kind}” of version ${version} cannot be read by this version of Clear Bell`);
  return { kind, detail: EVENTS[kind].schema.parse(detail) } as ReadEvent;
}

/** The live topics an event makes look again; none where it cannot be read. */
export function topicsOf(event: StoredEvent): string[] {
  try {
    const { kind, detail } = readEvent(event);
    return (EVENTS[kind].topics as (detail: unknown) => string[])(detail);
  } catch {
    return [];
  }
}
