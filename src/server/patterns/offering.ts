import type { z } from 'zod';
import { filledPart, inMakingOrder } from '../../core/patterns/filling.ts';
import type { Offer, PlacePage } from '../../core/patterns/page.ts';
import {
  aspectsChanged,
  aspectWords,
  partKey,
  partName,
  PATTERN_KINDS,
  type PatternPart,
} from '../../core/patterns/pattern.ts';
import type { takenChangesSchema } from '../../core/patterns/patternSchema.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { requirePatterns } from './keeping.ts';
import { build, putToWork } from './making.ts';
import { madeOf, partsNow, PATHS, requirePlace, type Place } from './place.ts';
import { insertPlacePart, lockPattern, lockPlace, setPlaceNumber } from './store.ts';
import { inTheWay } from './undoing.ts';
import { changePart } from './writing.ts';

/** A change that is offered, with what it would be done with. */
interface Change extends Omit<Offer, 'here'> {
  part: PatternPart;
  aspects: string[];
  mine: string[];
  states: { now: PatternPart; before: PatternPart; after: PatternPart } | null;
}

/** What the pattern says otherwise than when the place took its changes last, of what is still here. */
function changesOf(at: Place, here: ReadonlyMap<string, PatternPart>, publicUrl: string): Change[] {
  const { place, pattern, before: was } = at;
  const found: Change[] = [];
  const made = madeOf(at, here, publicUrl);
  const before = new Map(was.parts.map((part) => [partKey(part), part]));
  const line = (part: PatternPart, name: string) => ({ key: partKey(part), kind: part.kind, name, part });
  for (const part of inMakingOrder(pattern.document.parts)) {
    const key = partKey(part);
    const after = filledPart(pattern.document, part, place.answers, made);
    const [earlier, now] = [before.get(key), here.get(key)];
    if (!made.ids.has(key)) {
      // What it had before and was not taken here is not offered again.
      if (!earlier)
        found.push({
          ...line(part, partName(after)),
          state: 'new',
          says: [],
          aspects: [],
          mine: [],
          states: null,
        });
      continue;
    }
    if (!earlier || !now) continue;
    const asMade = filledPart(was, earlier, place.answers, made);
    const aspects = aspectsChanged(asMade, after).filter((aspect) =>
      aspectsChanged(now, after).includes(aspect),
    );
    if (aspects.length === 0) continue;
    const mine = aspectsChanged(asMade, now).filter((aspect) => aspects.includes(aspect));
    found.push({
      ...line(part, partName(now)),
      state: 'changed',
      says: aspectWords(part.kind, aspects, after),
      aspects,
      mine: aspectWords(part.kind, mine),
      states: { now, before: asMade, after },
    });
  }
  const left = new Set(pattern.document.parts.map(partKey));
  for (const part of was.parts) {
    const now = here.get(partKey(part));
    if (now && !left.has(partKey(part)))
      found.push({
        ...line(part, partName(now)),
        state: 'gone',
        says: [],
        aspects: [],
        mine: [],
        states: null,
      });
  }
  return found;
}

const isSame = (at: Place): boolean => at.place.number === at.pattern.number;

/** A place that was made from a pattern: its parts, what the pattern offers it, and what keeps it from being taken back. */
export async function placePage(
  db: Database,
  actor: Actor,
  id: number,
  publicUrl: string,
): Promise<PlacePage> {
  const at = await requirePlace(db, actor, id);
  const here = await partsNow(db, at);
  const { place, pattern, parts } = at;
  const names = new Map([...at.before.parts, ...pattern.document.parts].map((part) => [partKey(part), part]));
  return {
    id,
    name: place.name,
    pattern: { id: pattern.id, name: pattern.name, number: pattern.number },
    madeMs: place.madeMs,
    madeBy: place.madeBy,
    parts: parts
      .toSorted((a, b) => PATTERN_KINDS.indexOf(a.kind) - PATTERN_KINDS.indexOf(b.kind))
      .map(({ kind, partId, madeId }) => {
        const key = `${kind}:${partId}`;
        const now = here.get(key);
        const part = names.get(key);
        const name = now
          ? partName(now)
          : part
            ? partName(filledPart(at.before, part, place.answers, madeOf(at, here, publicUrl)))
            : '';
        return { key, kind, name, path: now ? `${PATHS[kind]}/${madeId}` : null };
      }),
    offers: isSame(at)
      ? []
      : changesOf(at, here, publicUrl).map(({ key, kind, name, state, says, mine }) => ({
          key,
          kind,
          name,
          state,
          says,
          here: mine,
        })),
    inTheWay: await inTheWay(db, at),
  };
}

/**
 * Takes changes of the pattern into a place that was made from it: those chosen, all of them or none. What is not taken is not offered
 * again.
 *
 * @throws 409 where the pattern was taken anew meanwhile, or a change does not fit what is here
 */
export async function takeChanges(
  db: Database,
  actor: Actor,
  id: number,
  { number, parts: chosen }: z.infer<typeof takenChangesSchema>,
  publicUrl: string,
): Promise<void> {
  requirePatterns(actor);
  await transact(db, async (trx) => {
    if (!(await lockPlace(trx, id))) throw notFound('place');
    const at = await requirePlace(trx, actor, id);
    if ((await lockPattern(trx, at.pattern.id)) !== number || at.pattern.number !== number || isSame(at))
      throw new Problem(409, 'What the pattern offers has changed a moment ago. Look at it again.');
    const here = await partsNow(trx, at);
    const taken = changesOf(at, here, publicUrl).filter(({ key }) => chosen.includes(key));
    for (const { states, aspects } of taken)
      if (states) await changePart({ trx, actor }, states.now, states.before, states.after, aspects);
    const further = taken.flatMap(({ state, part }) => (state === 'new' ? [part] : []));
    const owner = (await actorOf(trx, at.place.answers.ownerId)) ?? actor;
    const making = { trx, actor, owner };
    const built = await build(
      making,
      at.pattern.document,
      further,
      at.place.answers,
      madeOf(at, here, publicUrl),
    );
    const [problem] = built.flatMap((each) => each.problem ?? []);
    if (problem !== undefined)
      throw new Problem(422, problem, { errors: [{ field: 'parts', detail: problem }] });
    for (const { part, id: madeId } of built)
      if (madeId !== null) await insertPlacePart(trx, id, { kind: part.kind, partId: part.id, madeId });
    if (at.place.answers.atWork)
      await putToWork(
        making,
        built.flatMap(({ filled, id: madeId }) =>
          filled.kind === 'automation' && madeId !== null ? [madeId] : [],
        ),
      );
    await setPlaceNumber(trx, id, number);
    await record(trx, {
      actorId: actor.id,
      action: 'take changes of',
      subject: 'pattern',
      subjectId: at.pattern.id,
      detail: { place: id, parts: taken.map(({ key }) => key) },
    });
  });
}
