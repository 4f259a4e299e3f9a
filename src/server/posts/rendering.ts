import QuickLRU from 'quick-lru';
import type { Body } from '../../core/content/announcement.ts';
import type { FillField } from '../../core/content/html.ts';
import { sectionsHtml } from '../../core/content/html.ts';
import { excerpt } from '../../core/content/text.ts';
import { readBody } from '../../core/stored.ts';
import { addressIn, lastDayIn, type Place } from '../uploads/address.ts';
import { sectionsOfPost } from './parts.ts';

/** Longest stored body that is kept, in UTF-16 code units, and how many: together some tens of megabytes at the most. */
const LONGEST = 20_000;
const MOST = 300;
const bodies = new QuickLRU<string, Body>({ maxSize: MOST });

function frozen<T>(value: T): T {
  if (typeof value !== 'object' || value === null || Object.isFrozen(value)) return value;
  for (const part of Object.values(value)) frozen(part);
  return Object.freeze(value);
}

/**
 * What a stored body says. It is read from its text once while it is asked for often: two thousand readers of a board ask
 * for the same. Those who are given it share it, so it cannot be changed.
 */
export function sharedBody(json: string): Body {
  if (json.length > LONGEST) return readBody(json);
  const known = bodies.get(json);
  if (known) return known;
  const body = frozen(readBody(json));
  bodies.set(json, body);
  return body;
}

export interface Rendered {
  /** Escaped throughout. */
  html: string;
  excerpt: string;
}

/** By the body they were made of, for as long as that is kept. */
const renderings = new WeakMap<Body, Map<string, Rendered>>();
const MOST_OF_ONE = 60;
const EXCERPT = 140;

/**
 * A post's text as HTML and its first words, for a reader. What says the same to everybody is made once for all of them:
 * only texts with fields are written for each reader.
 *
 * @param level of the headings: one below that of the title they stand under
 */
export function renderedPost(
  post: { id: number; body: Body; part: number; parts: number; partSize: number },
  place: Place,
  level: 2 | 4,
  fill: FillField,
): Rendered {
  const key = [place, post.id, lastDayIn(), level, post.part, post.parts, post.partSize].join(' ');
  const known = renderings.get(post.body)?.get(key);
  if (known) return known;
  const told = { filled: false };
  const filling: FillField = (name, fallback) => {
    told.filled = true;
    return fill(name, fallback);
  };
  const sections = sectionsOfPost(post);
  const made: Rendered = {
    html: sectionsHtml(sections, filling, { kind: 'page', level, address: addressIn(place, post.id) }),
    excerpt: excerpt(sections, EXCERPT, filling),
  };
  if (!told.filled && Object.isFrozen(post.body)) {
    const before = renderings.get(post.body);
    const all = before && before.size < MOST_OF_ONE ? before : new Map<string, Rendered>();
    renderings.set(post.body, all.set(key, made));
  }
  return made;
}
