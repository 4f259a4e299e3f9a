import { z } from 'zod';
import { BLANK_KINDS, PATTERN_KINDS } from '../../../core/patterns/pattern.ts';
import {
  replacingSchema,
  newPatternSchema,
  newPlaceSchema,
  patternChangeSchema,
  placeLookSchema,
  takenChangesSchema,
} from '../../../core/patterns/patternSchema.ts';
import {
  changePattern,
  deletePattern,
  replacePattern,
  keepPattern,
  lookAtPlace,
} from '../../patterns/keeping.ts';
import { makePlace, planPlace } from '../../patterns/making.ts';
import { placePage, takeChanges } from '../../patterns/offering.ts';
import { listPatterns, patternPage } from '../../patterns/service.ts';
import { undoPlace } from '../../patterns/undoing.ts';
import { operationsAbout } from '../operation.ts';
import { id } from '../shapes.ts';

const patterns = operationsAbout('Patterns');

const kind = z.enum(PATTERN_KINDS);
const part = z.object({ key: z.string(), kind, name: z.string(), says: z.array(z.string()) });
const blank = z.object({
  key: z.string(),
  kind: z.enum(BLANK_KINDS),
  was: z.string(),
  in: z.array(z.string()),
  words: z.string(),
});
const ANSWERS = {
  name: 'Oru Terrace',
  ownerId: 12,
  given: { 'station:3': '5', 'date:2026-12-31': '2027-03-31' },
  atWork: true,
};
const KEPT = { called: 'Sant Elm', parts: ['group:7', 'board:9'], blanks: ['station:3'] };

/** What a program does with patterns, and with the places made from them. */
export const PATTERNS = [
  patterns('GET /patterns', {
    id: 'listPatterns',
    scope: 'patterns:read',
    summary: 'The patterns from which places are made',
    answer: z.object({
      items: z.array(
        z.object({
          id,
          name: z.string(),
          about: z.string(),
          holds: z.partialRecord(kind, z.int()),
          places: z.int(),
          behind: z.int(),
        }),
      ),
    }),
    run: async ({ db, actor }) => ({ body: { items: await listPatterns(db, actor) } }),
  }),
  patterns('GET /boards/{id}/pattern', {
    id: 'lookAtPlace',
    scope: 'patterns:read',
    summary: 'What belongs to the place a board is, and can be kept as a pattern',
    answer: z.object({
      board: z.object({ id, name: z.string() }),
      parts: z.array(part.extend({ kept: z.boolean() })),
      blanks: z.array(blank.extend({ asked: z.boolean() })),
    }),
    run: async ({ db, actor, id: of }) => ({ body: await lookAtPlace(db, actor, of()) }),
  }),
  patterns('POST /patterns', {
    id: 'keepPattern',
    scope: 'patterns:write',
    summary: 'Keep a place as a pattern',
    body: newPatternSchema,
    answer: z.object({ id }),
    makes: true,
    example: { name: 'A station', about: 'What every station begins with', boardId: 9, ...KEPT },
    run: async ({ db, actor, body }) => ({ body: await keepPattern(db, actor, body) }),
  }),
  patterns('GET /patterns/{id}', {
    id: 'getPattern',
    scope: 'patterns:read',
    summary: 'A pattern: what it holds, what it asks for, and the places made from it',
    answer: z.object({
      id,
      name: z.string(),
      about: z.string(),
      number: z.int(),
      called: z.string(),
      from: z.object({ id, name: z.string() }).nullable(),
      parts: z.array(part),
      blanks: z.array(blank),
      places: z.array(z.object({ id, name: z.string(), behind: z.boolean() })),
    }),
    run: async ({ db, actor, id: of }) => {
      const {
        id: patternId,
        name,
        about,
        number,
        called,
        from,
        parts,
        blanks,
        places,
      } = await patternPage(db, actor, of());
      const made = places.map((place) => ({ id: place.id, name: place.name, behind: place.behind }));
      return { body: { id: patternId, name, about, number, called, from, parts, blanks, places: made } };
    },
  }),
  patterns('PUT /patterns/{id}', {
    id: 'changePattern',
    scope: 'patterns:write',
    summary: 'Change a pattern’s name and what it is for',
    body: patternChangeSchema,
    example: { name: 'A station', about: 'What every station begins with' },
    run: async ({ db, actor, body, id: of }) => {
      await changePattern(db, actor, of(), body);
      return undefined;
    },
  }),
  patterns('PUT /patterns/{id}/anew', {
    id: 'takePatternAnew',
    scope: 'patterns:write',
    summary: 'Take a pattern anew from its place: the places made from it are offered what changed',
    body: replacingSchema,
    answer: z.object({ number: z.int() }),
    example: { number: 1, ...KEPT },
    run: async ({ db, actor, body, id: of }) => ({ body: await replacePattern(db, actor, of(), body) }),
  }),
  patterns('DELETE /patterns/{id}', {
    id: 'deletePattern',
    scope: 'patterns:write',
    summary: 'Delete a pattern; the places made from it stay',
    run: async ({ db, actor, id: of }) => {
      await deletePattern(db, actor, of());
      return undefined;
    },
  }),
  patterns('POST /patterns/{id}/look', {
    id: 'planPlace',
    scope: 'patterns:read',
    summary: 'What would be made from a pattern; nothing is',
    body: placeLookSchema,
    answer: z.object({
      parts: z.array(part.extend({ problem: z.string().nullable() })),
      errors: z.array(z.object({ field: z.string(), detail: z.string() })),
    }),
    example: { answers: ANSWERS },
    run: async ({ db, actor, body, settings, id: of }) => ({
      body: await planPlace(db, actor, of(), body.answers, settings.CLEAR_BELL_URL),
    }),
  }),
  patterns('POST /patterns/{id}/places', {
    id: 'makePlace',
    scope: 'patterns:write',
    summary:
      'Make a place from a pattern: groups, record sheets, boards, pinned posts and automations, all or none',
    body: newPlaceSchema,
    answer: z.object({ id }),
    makes: true,
    example: { number: 1, answers: ANSWERS },
    run: async ({ db, actor, body, settings, id: of }) => ({
      body: await makePlace(db, actor, of(), body, settings.CLEAR_BELL_URL),
    }),
  }),
  patterns('GET /places/{id}', {
    id: 'getPlace',
    scope: 'patterns:read',
    summary:
      'A place made from a pattern: its parts, what the pattern offers it, and what keeps it from being taken back',
    answer: z.object({
      id,
      name: z.string(),
      pattern: z.object({ id, name: z.string(), number: z.int() }),
      parts: z.array(z.object({ key: z.string(), kind, name: z.string(), path: z.string().nullable() })),
      offers: z.array(part.extend({ state: z.enum(['new', 'changed', 'gone']), here: z.array(z.string()) })),
      inTheWay: z.array(z.string()),
    }),
    run: async ({ db, actor, settings, id: of }) => {
      const page = await placePage(db, actor, of(), settings.CLEAR_BELL_URL);
      const { id: placeId, name, pattern, parts, offers, inTheWay } = page;
      return { body: { id: placeId, name, pattern, parts, offers, inTheWay } };
    },
  }),
  patterns('POST /places/{id}/changes', {
    id: 'takePatternChanges',
    scope: 'patterns:write',
    summary: 'Take changes of its pattern into a place; what is not taken is not offered again',
    body: takenChangesSchema,
    example: { number: 2, parts: ['board:9'] },
    run: async ({ db, actor, body, settings, id: of }) => {
      await takeChanges(db, actor, of(), body, settings.CLEAR_BELL_URL);
      return undefined;
    },
  }),
  patterns('DELETE /places/{id}', {
    id: 'takePlaceBack',
    scope: 'patterns:write',
    summary: 'Take a place back whole, as long as nobody has used it',
    run: async ({ db, actor, id: of }) => {
      await undoPlace(db, actor, of());
      return undefined;
    },
  }),
];
