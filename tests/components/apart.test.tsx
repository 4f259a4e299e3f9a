import { act } from '@testing-library/react';
import { renderToString } from 'react-dom/server';
import { afterEach, describe, expect, it } from 'vitest';
import { apart, Apart, type ApartElement } from '../../src/ui/islands/apart.ts';
import wake from '../../src/ui/islands/client.ts';

const Board = ({ first }: { first: { title: string } }) => <h1>{first.title}</h1>;

/** Lays a page as it is sent: the data, then the island with what the server made of it. */
function lay(locals: { apart?: ApartElement[] }, html: string): HTMLElement {
  document.body.innerHTML = `${(locals.apart ?? [])
    .map(({ id, json }) => `<script type="application/json" id="${id}">${json}</script>`)
    .join('')}<div ssr>${html}</div><p id="said">Not data</p>`;
  return document.querySelector('[ssr]')!;
}
const wakes = (element: HTMLElement, first: unknown): Promise<void> =>
  // What waits for its turn is done before it goes on.
  // eslint-disable-next-line @typescript-eslint/require-await
  act(async () => wake(element)(Board, { first }, {}, { client: 'load' }));

afterEach(() => {
  document.body.innerHTML = '';
});

describe('what an island is given apart', () => {
  it('is what the server saw, whatever texts hold, and stands nowhere else', async () => {
    const locals: { apart?: ApartElement[] } = {};
    const page = { title: '</script><script>alert(1)</script><!-- “&quot;” \u2028' };
    const given = apart(locals, page);
    expect(Apart.valueOf(given)).toBe(page);
    // All that is written at the element.
    expect(Object.entries(given)).toEqual([['$apart', 'data-1']]);
    const element = lay(locals, renderToString(<Board first={page} />));
    expect(document.querySelectorAll('script')).toHaveLength(1);
    await wakes(element, { $apart: 'data-1' });
    expect(element.textContent).toBe(page.title);
  });

  it('is only what the frame wrote: something that looks like it is left as it is', async () => {
    const said = { $apart: 'said', title: 'From the address' };
    const element = lay({}, renderToString(<Board first={said} />));
    await wakes(element, said);
    expect(element.textContent).toBe('From the address');
  });
});
