import type { Audience } from './expression.ts';

/** One term of an audience that is not made of others. */
export type Term = Exclude<Audience, { kind: 'any' | 'all' | 'except' }>;

/**
 * An audience as the sentence builds it: anybody of `to`, who is also in each of `also`, except anybody of `except`.
 */
export interface AudienceForm {
  to: Term[];
  also: Term[];
  except: Term[];
}

export const EMPTY_FORM: AudienceForm = { to: [], also: [], except: [] };

const anyOf = (terms: Term[]): Audience => {
  const [only] = terms;
  return only && terms.length === 1 ? only : { kind: 'any', of: terms };
};

/** The expression a form stands for, or null when nobody is addressed. */
export function audienceOf({ to, also, except }: AudienceForm): Audience | null {
  if (to.length === 0) return null;
  const among: Audience = also.length === 0 ? anyOf(to) : { kind: 'all', of: [anyOf(to), ...also] };
  return except.length === 0 ? among : { kind: 'except', from: among, minus: anyOf(except) };
}

function isTerm(audience: Audience): audience is Term {
  return audience.kind !== 'any' && audience.kind !== 'all' && audience.kind !== 'except';
}

function termsOf(audience: Audience): Term[] | null {
  if (isTerm(audience)) return [audience];
  return audience.kind === 'any' && audience.of.every(isTerm) ? audience.of : null;
}

/** The form an expression stands for, or null where it says more than a form can. */
export function formOf(audience: Audience | null): AudienceForm | null {
  if (!audience) return EMPTY_FORM;
  const except = audience.kind === 'except' ? termsOf(audience.minus) : [];
  const among = audience.kind === 'except' ? audience.from : audience;
  if (!except) return null;
  if (among.kind === 'all') {
    const [first, ...rest] = among.of;
    const to = first ? termsOf(first) : null;
    return to && rest.every(isTerm) ? { to, also: rest, except } : null;
  }
  const to = termsOf(among);
  return to && { to, also: [], except };
}

/** Groups in and out, as a form. */
export const groupsForm = (include: number[], exclude: number[] = []): AudienceForm => {
  const group = (id: number): Term => ({ kind: 'group', id });
  return { to: include.map(group), also: [], except: exclude.map(group) };
};

export const sameTerm = (a: Term, b: Term): boolean => JSON.stringify(a) === JSON.stringify(b);
