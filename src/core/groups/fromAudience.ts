import type { Audience } from '../audience/expression.ts';

/** The path under which a group is made of whoever is in an audience. */
export const newGroupOf = (audience: Audience): string =>
  `/groups?${new URLSearchParams({ of: JSON.stringify(audience) }).toString()}`;
