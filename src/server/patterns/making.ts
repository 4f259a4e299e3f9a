import type { z } from 'zod';
import { blanksIn, filledPart, inMakingOrder, namedBy } from '../../core/patterns/filling.ts';
import type { PlannedPart, PlannedPlace } from '../../core/patterns/page.ts';
import {
  partKey,
  partName,
  PATTERN_WORDS,
  type PatternDocument,
  type PatternPart,
  type PlaceAnswers,
} from '../../core/patterns/pattern.ts';
import type { newPlaceSchema } from '../../core/patterns/patternSchema.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { record } from '../audit/store.ts';
import { publishProblems } from '../automations/publishProblems.ts';
import { publish } from '../automations/service.ts';
import { automationById } from '../automations/store.ts';
import { placeLinks } from '../boards/settings.ts';
import { transact, type Database } from '../database/connection.ts';
import { personById, stations } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { sheetById } from '../sheets/store.ts';
import { described } from './describing.ts';
import { requirePatterns } from './keeping.ts';
import { insertPlace, insertPlacePart, lockPattern, patternById } from './store.ts';
import { makePart, type Making } from './writing.ts';

interface Fault {
  field: string;
  detail: string;
}

/** What is made so far: ids and addresses of forms, to which more is added. */
export interface MadeSoFar {
  ids: Map<string, number>;
  forms: Map<string, string>;
  origin: string;
}

/** Where the pages of here stand: the origin of the address that operators set. */
export const originOf = (publicUrl: string): string => new URL(publicUrl).origin;

/** What a problem says of a part, with its kind and name before it where it does not name it. */
const saidOf = (part: PatternPart, { message }: Problem): string =>
  message.includes(`“${partName(part)}”`)
    ? message
    : `The ${PATTERN_WORDS[part.kind].one} “${partName(part)}”: ${message}`;

/** What is wrong with what was answered: somebody or a station that is not there. */
async function answerFaults(
  db: Database,
  document: PatternDocument,
  answers: PlaceAnswers,
): Promise<Fault[]> {
  const faults: Fault[] = [];
  const places = new Set((await stations(db)).map(({ id }) => id));
  const known = new Set(blanksIn(document.parts).map(({ key }) => key));
  for (const [key, value] of Object.entries(answers.given)) {
    const field = `given.${key}`;
    if (!known.has(key)) faults.push({ field, detail: 'The pattern does not ask for this.' });
    else if (key.startsWith('station:') && !places.has(Number(value)))
      faults.push({ field, detail: 'There is no such station. Choose one from the list.' });
    else if (key.startsWith('person:') && (await isGone(db, Number(value))))
      faults.push({ field, detail: 'This person is not here any more. Choose somebody else.' });
  }
  return faults;
}

async function isGone(db: Database, id: number): Promise<boolean> {
  const person = await personById(db, id);
  return !person || person.standing === 'left';
}

/** The owner of a place to be, who must be of the organisation. @throws 422 */
async function ownerOf(db: Database, id: number): Promise<Actor> {
  const [owner, person] = await Promise.all([actorOf(db, id), personById(db, id)]);
  const detail = !owner
    ? 'This person is not here any more. Choose somebody else.'
    : person?.guestUntil != null
      ? `${person.name} is a guest, and looks after nothing here. Choose somebody of the organisation.`
      : null;
  if (!owner || detail !== null)
    throw new Problem(422, detail ?? '', { errors: [{ field: 'ownerId', detail: detail ?? '' }] });
  return owner;
}

/** Parts that were made, or would be, filled in with what was answered and the ids of here. */
interface Built {
  part: PatternPart;
  filled: PatternPart;
  id: number | null;
  problem: string | null;
}

/**
 * Makes parts one after the other, each in a savepoint, so that all that keeps some from being made is found at once.
 *
 * @param made what is made so far; what is made now is added to it
 */
export async function build(
  making: Making,
  document: PatternDocument,
  parts: readonly PatternPart[],
  answers: PlaceAnswers,
  made: MadeSoFar,
): Promise<Built[]> {
  const built: Built[] = [];
  const failed = new Map<string, string>();
  for (const part of inMakingOrder(parts)) {
    const key = partKey(part);
    const filled = filledPart(document, part, answers, made);
    const without = namedBy(part).flatMap(({ kind, id }) => failed.get(`${kind}:${id}`) ?? [])[0];
    let [id, problem]: [number | null, string | null] = [null, null];
    if (without !== undefined) problem = `It needs ${without}, which cannot be made.`;
    else
      try {
        id = await transact(making.trx, (trx) => makePart({ ...making, trx }, filled));
        made.ids.set(key, id);
        const here =
          part.kind === 'sheet' && part.formKey !== null ? await sheetById(making.trx, id) : undefined;
        if (part.kind === 'sheet' && part.formKey !== null && here?.formKey)
          made.forms.set(part.formKey, here.formKey);
      } catch (error) {
        if (!(error instanceof Problem)) throw error;
        problem = saidOf(filled, error);
      }
    if (problem !== null) failed.set(key, `the ${PATTERN_WORDS[part.kind].one} “${partName(filled)}”`);
    // With the ids of what it was made with, so that it can be told with their names.
    built.push({ part, filled: id === null ? filled : { ...filled, id }, id, problem });
  }
  // A board may link to itself, and to one that was made after it.
  for (const { part, filled, id } of built) {
    const now = filledPart(document, part, answers, made);
    if (id === null || now.kind !== 'board' || filled.kind !== 'board') continue;
    if (now.links.some(({ url }, at) => url !== filled.links[at]?.url))
      await placeLinks(making.trx, making.actor, id, now.links);
  }
  return built;
}

/** What keeps an automation that was made from being put to work; nothing where nothing does. */
async function whyNotAtWork({ trx, actor }: Making, id: number): Promise<string | null> {
  const row = await automationById(trx, id);
  if (!row) return null;
  const [problem] = await publishProblems(trx, actor, row.draft, actor.id);
  return problem?.detail ?? null;
}

/** Puts to work what was made and can work; the rest stays as drafts, of which it was told beforehand. */
export async function putToWork(making: Making, ids: readonly number[]): Promise<void> {
  for (const id of ids) {
    const row = await automationById(making.trx, id);
    if (row && (await whyNotAtWork(making, id)) === null)
      await publish(making.trx, making.actor, id, row.revision);
  }
}

/** Undoes what was made to be looked at. */
class OnlyLooked extends Error {}

/**
 * What would be made, found by making all of it and undoing it at once: nothing stays, and what keeps it from being made is what
 * would keep it then.
 */
export async function planPlace(
  db: Database,
  actor: Actor,
  patternId: number,
  answers: PlaceAnswers,
  publicUrl: string,
): Promise<PlannedPlace> {
  requirePatterns(actor);
  const pattern = await patternById(db, patternId);
  if (!pattern) throw notFound('pattern');
  const errors = await answerFaults(db, pattern.document, answers);
  let parts: PlannedPart[] = [];
  try {
    await transact(db, async (trx) => {
      const owner = await ownerOf(trx, answers.ownerId);
      const making = { trx, actor, owner };
      const made: MadeSoFar = { ids: new Map(), forms: new Map(), origin: originOf(publicUrl) };
      const built = await build(making, pattern.document, pattern.document.parts, answers, made);
      const lines = await described(
        trx,
        actor,
        built.map(({ filled }) => filled),
      );
      parts = lines.map((line, at) => ({ ...line, problem: built[at]?.problem ?? null }));
      for (const [at, { filled, id }] of built.entries()) {
        const line = parts[at];
        if (!line || id === null) continue;
        if (filled.kind === 'group' && filled.rule === null) line.says.push(`beginning with its owner`);
        if (filled.kind !== 'automation') continue;
        const why = answers.atWork ? await whyNotAtWork(making, id) : null;
        line.says.push(
          !answers.atWork
            ? 'Comes as a draft that is off.'
            : why === null
              ? 'Is put to work at once.'
              : `Comes as a draft that is off: ${why}`,
        );
      }
      throw new OnlyLooked();
    });
  } catch (error) {
    if (error instanceof Problem && error.errors.length > 0) errors.push(...error.errors);
    else if (!(error instanceof OnlyLooked)) throw error;
  }
  return { parts, errors };
}

/**
 * Makes a place from a pattern: all of it, or nothing.
 *
 * @throws 409 where the pattern was taken anew meanwhile; 422 with all that keeps it from being made
 */
export async function makePlace(
  db: Database,
  actor: Actor,
  patternId: number,
  { number, answers }: z.infer<typeof newPlaceSchema>,
  publicUrl: string,
): Promise<{ id: number }> {
  requirePatterns(actor);
  return transact(db, async (trx) => {
    const now = await lockPattern(trx, patternId);
    const pattern = await patternById(trx, patternId);
    if (now === undefined || !pattern) throw notFound('pattern');
    if (now !== number)
      throw new Problem(
        409,
        'Somebody took this pattern anew a moment ago. Look at what would be made again.',
      );
    const faults = await answerFaults(trx, pattern.document, answers);
    if (faults.length > 0)
      throw new Problem(422, faults[0]?.detail ?? 'Something was answered wrongly.', { errors: faults });
    const owner = await ownerOf(trx, answers.ownerId);
    const making = { trx, actor, owner };
    const made: MadeSoFar = { ids: new Map(), forms: new Map(), origin: originOf(publicUrl) };
    const built = await build(making, pattern.document, pattern.document.parts, answers, made);
    const problems = built.flatMap(({ problem }) => problem ?? []);
    if (problems.length > 0)
      throw new Problem(422, 'Nothing was made: something in it cannot be.', {
        errors: problems.map((detail) => ({ field: 'name', detail })),
      });
    if (answers.atWork)
      await putToWork(
        making,
        built.flatMap(({ filled, id }) => (filled.kind === 'automation' && id !== null ? [id] : [])),
      );
    const id = await insertPlace(trx, { patternId, number, name: answers.name, answers, by: actor.id });
    for (const { part, id: madeId } of built)
      if (madeId !== null) await insertPlacePart(trx, id, { kind: part.kind, partId: part.id, madeId });
    await record(trx, {
      actorId: actor.id,
      action: 'make from',
      subject: 'pattern',
      subjectId: patternId,
      detail: { place: id, name: answers.name },
    });
    return { id };
  });
}
