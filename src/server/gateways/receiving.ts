import { ZodError } from 'zod';
import { contentProblems, type Content } from '../../core/content/announcement.ts';
import type { Inline } from '../../core/content/document.ts';
import type { Image } from '../../core/content/section.ts';
import type { HookMessage } from '../../core/gateways/hookIn.ts';
import { contentOfMessage } from '../../core/gateways/message.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import { allSenders } from '../senders/store.ts';
import { isDuplicate, type Database } from '../database/connection.ts';
import { inputProblem } from '../http/problemDetails.ts';
import { findPerson } from '../identities/directory.ts';
import { namesOfPeople } from '../people/store.ts';
import { postById } from '../posts/store.ts';
import { Problem } from '../problem.ts';
import { unseal } from '../sealing.ts';
import type { Asking } from '../sources/asking.ts';
import { keepImage } from '../uploads/service.ts';
import { requireProof } from './callerProof.ts';
import { carryOut, isFlood, keyOf, reasonIn, type Outcome } from './carrying.ts';
import { fetchImage } from './fetchImage.ts';
import { takenBefore, type HookInRow, type NewCall } from './inStore.ts';
import { momentOf } from './moment.ts';
import { note } from './noting.ts';
import { callValues, messageOf, readCall } from './reading.ts';

/** What a call is answered with. */
export interface Received {
  /** Whether the same message came before; nothing was done again. */
  repeated: boolean;
  state: Outcome['state'];
  /** The address of what it became; null where automations were set off. */
  address: string | null;
  /** Whom it called on and nobody is: they stand in the text as they were named. */
  notFound: string[];
}

export interface Receiving {
  attempts: AttemptLimit;
  asking: Asking;
  /** The address the application is reached by. */
  publicUrl: string;
}

const addressOf = (
  { postId, occurrenceId }: Pick<Outcome, 'postId' | 'occurrenceId'>,
  publicUrl: string,
): string | null =>
  postId !== null
    ? new URL(`/posts/${postId}`, publicUrl).href
    : occurrenceId !== null
      ? new URL(`/sends/${occurrenceId}`, publicUrl).href
      : null;

/** How what a message became before stands now. */
async function stateOf(
  db: Database,
  { postId, occurrenceId }: Pick<Outcome, 'postId' | 'occurrenceId'>,
): Promise<Received['state']> {
  if (postId !== null) return (await postById(db, postId))?.state === 'held' ? 'held' : 'up';
  return occurrenceId === null ? 'handed to automations' : 'on its way';
}

/** Whom a message calls on, as mentions; who is not found is named in the text as they were. */
async function calledIn(
  db: Database,
  message: HookMessage,
): Promise<{ called: Inline[]; notFound: string[] }> {
  if (message.call.length === 0) return { called: [], notFound: [] };
  const found = await Promise.all(
    message.call.map((each) =>
      typeof each === 'string' ? findPerson(db, '', each) : findPerson(db, each.system, each.value),
    ),
  );
  const names = await namesOfPeople(
    db,
    found.flatMap((each) => ('personId' in each ? [each.personId] : [])),
  );
  const notFound: string[] = [];
  const called = found.map((each, at): Inline => {
    const written = message.call[at];
    const words = typeof written === 'string' ? written : (written?.value ?? '');
    if (!('personId' in each)) notFound.push(words);
    return 'personId' in each
      ? {
          type: 'mention',
          attrs: { kind: 'person', id: each.personId, label: names.get(each.personId) ?? words },
        }
      : { type: 'text', text: words };
  });
  return { called, notFound };
}

/** Keeps the images of a message; those by address are fetched, bounded, from outside the house only. */
async function imagesIn(
  db: Database,
  owner: Actor,
  message: HookMessage,
  asking: Asking,
): Promise<(Image | null)[]> {
  const images: (Image | null)[] = [];
  for (const [at, { image }] of message.sections.entries()) {
    if (!image) {
      images.push(null);
      continue;
    }
    try {
      const bytes =
        image.data === undefined
          ? await fetchImage(image.url ?? '', asking.inside)
          : Buffer.from(image.data, 'base64');
      const kept = await keepImage(db, owner, bytes, 'image');
      images.push({ ...kept, alt: image.alt, placement: 'whole', focus: { x: 50, y: 50 } });
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      throw new Problem(422, error.message, {
        errors: [{ field: `sections.${at}.image`, detail: error.message }],
      });
    }
  }
  return images;
}

async function contentFrom(
  db: Database,
  hook: HookInRow,
  owner: Actor,
  data: unknown,
  asking: Asking,
): Promise<{ content: Content; notFound: string[] }> {
  const message = messageOf(hook.hook, data);
  const [senders, { called, notFound }] = await Promise.all([
    hook.hook.senderId === null ? [] : allSenders(db),
    calledIn(db, message),
  ]);
  const content = contentOfMessage(message, {
    byline: senders.find(({ id }) => id === hook.hook.senderId)?.name ?? hook.hook.name,
    images: await imagesIn(db, owner, message, asking),
    called,
  });
  const errors = contentProblems(content);
  if (errors.length > 0) throw new Problem(422, errors[0]?.detail ?? 'It cannot go up.', { errors });
  return { content, notFound };
}

type Became = Pick<Outcome, 'postId' | 'occurrenceId'>;

/** A call that was taken, or had been before. */
const callTaken = (messageId: string, body: Buffer, repeated: boolean, became: Became): NewCall => ({
  messageId,
  outcome: repeated ? 'repeated' : 'taken',
  status: repeated ? 200 : 201,
  reason: null,
  ...became,
  body: body.toString('utf8'),
});

/** The same message at the same moment: the other one is carried out. */
function unlessDuplicate(error: unknown): Outcome {
  if (!isDuplicate(error)) throw error;
  return { state: 'on its way', notFound: [], postId: null, occurrenceId: null, repeated: true };
}

/**
 * Takes what an outside system posts to a way in: proves who it is, reads it, and puts it where the way in is for. The same
 * id twice is one message. Every call is noted, with why it was refused.
 *
 * @throws 401 without proof, 404 where there is no such address, 409 where it is off, 413, 415, 422 by field, 429 past its limit
 */
export async function receive(
  db: Database,
  addressKey: string,
  headers: Headers,
  body: Buffer,
  { attempts, asking, publicUrl }: Receiving,
): Promise<Received> {
  const moment = await momentOf(db, addressKey);
  if (!moment) throw new Problem(404, 'Nothing is taken at this address.');
  const { hook, owner, board } = moment;
  const called = { id: '' };
  try {
    requireProof(unseal(asking.secret, hook.sealed), headers, body);
    await attempts.hook(hook.id, hook.hook.perMinute);
    if (!hook.on) throw new Problem(409, `“${hook.hook.name}” is switched off.`);
    if (!owner)
      throw new Problem(
        409,
        `${hook.owner}, who looked after this, has left. Somebody else has to take it over.`,
      );
    const { id, data } = readCall(headers, body);
    called.id = id;
    const before = id === '' ? undefined : await takenBefore(db, hook.id, id);
    // Without an id nothing sets one message apart from another, and each is its own.
    const key = keyOf(hook.id, id === '' ? crypto.randomUUID() : id);
    const noted = { already: false };
    const call = (repeated: boolean, became: Became): NewCall => callTaken(id, body, repeated, became);
    const outcome: Outcome = before
      ? { ...before, state: await stateOf(db, before), notFound: [], repeated: true }
      : await carryOut(db, hook, owner, {
          key,
          content: () => contentFrom(db, hook, owner, data, asking),
          values: () => callValues(hook.hook, data),
          board,
          call: (became) => {
            noted.already = true;
            return call(false, became);
          },
        }).catch(unlessDuplicate);
    const repeated = outcome.repeated ?? false;
    const { postId, occurrenceId } = outcome;
    if (repeated || !noted.already) await note(db, hook, call(repeated, { postId, occurrenceId }));
    return {
      repeated,
      state: outcome.state,
      address: addressOf(outcome, publicUrl),
      notFound: outcome.notFound,
    };
  } catch (error) {
    const problem = error instanceof ZodError ? inputProblem(error) : error;
    if (problem instanceof Problem && !(await isFlood(db, hook.id, problem.status)))
      await note(db, hook, {
        messageId: called.id,
        outcome: 'refused',
        status: problem.status,
        reason: reasonIn(problem),
        postId: null,
        occurrenceId: null,
        // What did not prove where it comes from is not kept.
        body: problem.status === 401 ? '' : body.toString('utf8'),
      });
    throw problem;
  }
}
