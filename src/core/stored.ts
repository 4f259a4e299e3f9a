import { draftContentSchema, type Body, type Content } from './content/announcement.ts';
import { planSchema, type Plan } from './plan/plan.ts';

/**
 * What is stored as JSON carries the version of its shape, and is brought up to the present one when it is read. To change
 * a shape, raise the version and add the step that turns the one before into it; what is stored is never rewritten.
 * Without a version it is of before versions were kept, and reads as version 0.
 */
type Step = (value: Record<string, unknown>) => Record<string, unknown>;

/** Step n turns version n into version n + 1. */
const PLAN_STEPS: readonly Step[] = [
  // Before linked contacts could be copied in, nobody was.
  (plan) => ({ contacts: false, ...plan }),
];
const CONTENT_STEPS: readonly Step[] = [
  // Before there were events and series, there were none.
  (content) => ({ event: null, issue: null, ...content }),
];

function upgraded(json: string, steps: readonly Step[]): Record<string, unknown> {
  const value: unknown = JSON.parse(json);
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new Error('What is stored is not an object');
  const { version = 0, ...rest } = value as Record<string, unknown>;
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 0 || version > steps.length)
    throw new Error('It was stored by another version of Clear Bell than this one can read');
  return steps.slice(version).reduce((shape, step) => step(shape), rest);
}

export const storedPlan = (plan: Plan): string => JSON.stringify({ version: PLAN_STEPS.length, ...plan });

/** @throws where it is no plan, or one of a later version */
export const readPlan = (json: string): Plan => planSchema.parse(upgraded(json, PLAN_STEPS));

export const storedContent = (content: Content): string =>
  JSON.stringify({ version: CONTENT_STEPS.length, ...content });

/** @throws where it is no content, or content of a later version */
export const readContent = (json: string): Content => draftContentSchema.parse(upgraded(json, CONTENT_STEPS));

export const storedBody = (body: Body): string => JSON.stringify({ version: CONTENT_STEPS.length, ...body });

/** What stands where a text that was published cannot be read any more. */
const UNREADABLE: Body = {
  sections: [
    {
      id: 's1',
      heading: '',
      accent: 'none',
      document: {
        type: 'doc',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'This text cannot be read.' }] }],
      },
      image: null,
      gallery: [],
      video: null,
      files: [],
    },
  ],
  button: null,
  event: null,
};

/**
 * The body of a version. It was checked when it was written; one that cannot be read says so in its own place, so that
 * the page it stands on can still be read.
 */
export function readBody(json: string): Body {
  try {
    const { sections, button, event } = upgraded(json, CONTENT_STEPS) as Partial<Body>;
    return Array.isArray(sections) ? { sections, button: button ?? null, event: event ?? null } : UNREADABLE;
  } catch {
    return UNREADABLE;
  }
}
