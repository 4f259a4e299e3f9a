import { createElement } from 'react';
import { renderToString } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import { useServer, useServerPages } from '../../src/ui/server.ts';

function One({ first }: { first: string }) {
  return createElement('p', null, useServer<never, string>('/api/one' as never, { first }).data);
}
function Many({ first }: { first: string }) {
  const { data } = useServerPages<never, number, string>({
    path: () => '/api/many' as never,
    next: () => null,
    first: { path: '/api/many', page: first },
  });
  return createElement('p', null, data?.pages.join());
}

describe('an island as it is made on the server', () => {
  it('holds what its own page was given, and nothing of what another reader was', () => {
    for (const island of [One, Many]) {
      expect(renderToString(createElement(island, { first: 'of one reader' }))).toBe('<p>of one reader</p>');
      expect(renderToString(createElement(island, { first: 'of another' }))).toBe('<p>of another</p>');
    }
  });
});
