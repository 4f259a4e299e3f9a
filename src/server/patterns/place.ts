import { partKey, type PatternDocument, type PatternPart } from '../../core/patterns/pattern.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { notFound } from '../problem.ts';
import { requirePatterns } from './keeping.ts';
import { originOf, type MadeSoFar } from './making.ts';
import { partHere } from './reading.ts';
import {
  partsOfPlace,
  patternById,
  placeById,
  versionOf,
  type PatternRow,
  type PlacePart,
  type PlaceRow,
} from './store.ts';

/** Where what a part came to be is read. */
export const PATHS = {
  group: '/groups',
  sheet: '/sheets',
  board: '/boards',
  pin: '/posts',
  automation: '/automations',
};

/** A place with the pattern it was made from, and what its parts came to be. */
export interface Place {
  place: PlaceRow;
  pattern: PatternRow;
  /** What the pattern said when the place took its changes last. */
  before: PatternDocument;
  parts: PlacePart[];
}

export async function requirePlace(db: Database, actor: Actor, id: number): Promise<Place> {
  requirePatterns(actor);
  const place = await placeById(db, id);
  if (!place) throw notFound('place');
  const [pattern, before, parts] = await Promise.all([
    patternById(db, place.patternId),
    versionOf(db, place.patternId, place.number),
    partsOfPlace(db, id),
  ]);
  if (!pattern || !before) throw notFound('place');
  return { place, pattern, before, parts };
}

/** What was made of a part as it is here now, by the key of the part; what is gone is left out. */
export async function partsNow(
  db: Database,
  { before, pattern, parts }: Place,
): Promise<Map<string, PatternPart>> {
  const found = new Map<string, PatternPart>();
  const ids = new Map(parts.map(({ kind, partId, madeId }) => [`${kind}:${partId}`, madeId]));
  for (const { kind, partId, madeId } of parts) {
    const part = [...pattern.document.parts, ...before.parts].find(
      (each) => each.kind === kind && each.id === partId,
    );
    const boardId = part?.kind === 'pin' ? (ids.get(`board:${part.boardId}`) ?? part.boardId) : null;
    const here = await partHere(db, kind, madeId, boardId);
    if (here) found.set(`${kind}:${partId}`, here);
  }
  return found;
}

export function madeOf(
  { before, parts }: Place,
  here: ReadonlyMap<string, PatternPart>,
  publicUrl: string,
): MadeSoFar {
  const forms = new Map<string, string>();
  for (const part of before.parts) {
    const now = here.get(partKey(part));
    if (part.kind === 'sheet' && part.formKey !== null && now?.kind === 'sheet' && now.formKey !== null)
      forms.set(part.formKey, now.formKey);
  }
  return {
    ids: new Map(parts.map(({ kind, partId, madeId }) => [`${kind}:${partId}`, madeId])),
    forms,
    origin: originOf(publicUrl),
  };
}
