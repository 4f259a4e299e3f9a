import { Liquid } from 'liquidjs';
import { SAMPLE, type PlaceFields } from './placeFields.ts';

/** The most a body has, in characters. */
const MOST_BODY = 200_000;

// Bounded: a template is read for every announcement, by the process that sends everything else.
const liquid = new Liquid({
  strictVariables: true,
  strictFilters: true,
  ownPropertyOnly: true,
  parseLimit: 20_000,
  renderLimit: 500,
  memoryLimit: 2_000_000,
  // Neither files nor other templates are read.
  templates: {},
});

/** A string that is one field alone has its value, of whatever kind. */
const WHOLE = /^\s*\{\{\s*([a-z]+(?:\.[a-z]+)*)\s*\}\}\s*$/;

type Json = string | number | boolean | null | Json[] | { [key: string]: Json };

function filledIn(value: Json, fields: PlaceFields): Json {
  if (typeof value === 'string') {
    const [, path] = WHOLE.exec(value) ?? [];
    return path === undefined
      ? (liquid.parseAndRenderSync(value, fields) as string)
      : (liquid.evalValueSync(path, fields) as Json);
  }
  if (Array.isArray(value)) return value.map((each) => filledIn(each, fields));
  if (value !== null && typeof value === 'object')
    return Object.fromEntries(Object.entries(value).map(([key, each]) => [key, filledIn(each, fields)]));
  return value;
}

/**
 * The body an outside place gets: a template in JSON whose strings name fields in Liquid, `"{{ title }}"`. A string that is one
 * field and nothing else becomes that field's value, also a list, an object or null; whatever a field says, the body stays JSON.
 *
 * @throws an Error whose message says what is wrong with the template, or that the body is too long
 */
export function bodyOf(template: string, fields: PlaceFields): string {
  const body = JSON.stringify(filledIn(JSON.parse(template) as Json, fields), null, 2);
  if (body.length > MOST_BODY)
    throw new Error(`The body would have more than ${MOST_BODY.toLocaleString('en-GB')} characters`);
  return body;
}

/** What is wrong with a template; null where it can be used. */
export function templateProblem(template: string): string | null {
  try {
    JSON.parse(template);
  } catch (error) {
    return `It is not JSON: ${error instanceof Error ? error.message : String(error)}.`;
  }
  try {
    // Also an announcement without a button and an event is told of.
    for (const fields of [SAMPLE, { ...SAMPLE, button: null, event: null, sections: [] }])
      bodyOf(template, fields);
    return null;
  } catch (error) {
    const words = (error instanceof Error ? error.message : String(error)).split(/, (?:line|file):/)[0] ?? '';
    return `It cannot be filled in: ${words}.`;
  }
}
