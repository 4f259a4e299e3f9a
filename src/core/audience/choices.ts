import type { Audience } from './expression.ts';

/** The two lists a coordinator chooses from: who is in, and who is left out of it. */
export interface AudienceChoices {
  everyone: boolean;
  include: number[];
  exclude: number[];
}

const groups = (ids: number[]): Audience => ({ kind: 'any', of: ids.map((id) => ({ kind: 'group', id })) });

/** The expression for chosen groups in and out, or null when nobody is addressed. */
export function audienceOf(choices: AudienceChoices): Audience | null {
  if (!choices.everyone && choices.include.length === 0) return null;
  const from: Audience = choices.everyone ? { kind: 'everyone' } : groups(choices.include);
  return choices.exclude.length === 0 ? from : { kind: 'except', from, minus: groups(choices.exclude) };
}

function groupIds(audience: Audience): number[] | null {
  if (audience.kind === 'group') return [audience.id];
  if (audience.kind !== 'any') return null;
  const ids = audience.of.map((part) => (part.kind === 'group' ? part.id : null));
  return ids.includes(null) ? null : ids.filter((id) => id !== null);
}

/** The choices an expression stands for, or null where it says more than two lists of groups can. */
export function choicesOf(audience: Audience | null): AudienceChoices | null {
  if (!audience) return { everyone: false, include: [], exclude: [] };
  const from = audience.kind === 'except' ? audience.from : audience;
  const exclude = audience.kind === 'except' ? groupIds(audience.minus) : [];
  const include = from.kind === 'everyone' ? [] : groupIds(from);
  return include && exclude ? { everyone: from.kind === 'everyone', include, exclude } : null;
}
