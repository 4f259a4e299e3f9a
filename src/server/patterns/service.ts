import { blanksIn } from '../../core/patterns/filling.ts';
import type { PatternLine, PatternPage } from '../../core/patterns/page.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { stations } from '../people/store.ts';
import { notFound } from '../problem.ts';
import { blankLines, described } from './describing.ts';
import { requirePatterns } from './keeping.ts';
import { allPatterns, patternById, placesOf } from './store.ts';

/** Places of a pattern that its page shows, the latest. */
const MOST_PLACES = 200;

/** The patterns, by name, each with how much it holds and how many places were made from it. */
export async function listPatterns(db: Database, actor: Actor): Promise<PatternLine[]> {
  requirePatterns(actor);
  return (await allPatterns(db)).map(({ id, name, about, document, places, behind }) => {
    const holds: PatternLine['holds'] = {};
    for (const { kind } of document.parts) holds[kind] = (holds[kind] ?? 0) + 1;
    return { id, name, about, holds, places, behind };
  });
}

/** A pattern: what it holds, what it asks for, and the places made from it. */
export async function patternPage(db: Database, actor: Actor, id: number): Promise<PatternPage> {
  requirePatterns(actor);
  const pattern = await patternById(db, id);
  if (!pattern) throw notFound('pattern');
  const { document, boardId, boardName, number } = pattern;
  const asked = blanksIn(document.parts).filter(({ key }) => document.blanks.includes(key));
  const [parts, blanks, places, all] = await Promise.all([
    described(db, actor, document.parts),
    blankLines(db, asked),
    placesOf(db, id, MOST_PLACES),
    stations(db),
  ]);
  return {
    id,
    name: pattern.name,
    about: pattern.about,
    number,
    called: document.called,
    from: boardId === null ? null : { id: boardId, name: boardName ?? '' },
    savedMs: pattern.savedMs,
    savedBy: pattern.savedBy,
    parts,
    blanks,
    places: places.map((place) => ({
      id: place.id,
      name: place.name,
      madeMs: place.madeMs,
      madeBy: place.madeBy,
      behind: place.number < number,
    })),
    stations: all.map(({ id: stationId, name, zone }) => ({ id: stationId, name, zone })),
  };
}
