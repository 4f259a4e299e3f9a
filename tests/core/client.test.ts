import { describe, expectTypeOf, it } from 'vitest';
import type { Gives, Json, PathTo, Takes } from '../../src/ui/client.ts';

// Held by the type check; run, they only say that they are there.
describe('the types by which pages call endpoints', () => {
  it('are found by the path, whatever is chosen in it or asked behind it', () => {
    expectTypeOf<Gives<'POST', `/api/posts/${number}/replies`>>().toEqualTypeOf<{ id: number }>();
    expectTypeOf<Gives<'GET', `/api/posts/${number}/replies?before=${number}`>>().toHaveProperty('replies');
    expectTypeOf<Gives<'PUT', `/api/organisation-settings/bundling`>>().toEqualTypeOf<undefined>();
    expectTypeOf<Takes<'PUT', '/api/me/bundling'>>().toHaveProperty('bundling');
  });

  it('lead nowhere where there is no endpoint, or none with that method', () => {
    expectTypeOf<PathTo<'GET', '/api/nothing'>>().toEqualTypeOf<never>();
    expectTypeOf<PathTo<'DELETE', `/api/posts/${number}/replies`>>().toEqualTypeOf<never>();
    expectTypeOf<PathTo<'GET', string>>().toEqualTypeOf<never>();
    expectTypeOf<PathTo<'DELETE', `/api/posts/${number}`>>().toEqualTypeOf<`/api/posts/${number}`>();
  });

  it('are those of what JSON becomes', () => {
    expectTypeOf<Json<{ at: Date; names: readonly string[]; of: { n: number | null } }>>().toEqualTypeOf<{
      at: string;
      names: readonly string[];
      of: { n: number | null };
    }>();
  });
});
