import { act, renderHook, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { EMPTY_CONTENT } from '../../src/core/content/announcement.ts';
import { EMPTY_PLAN, type Plan } from '../../src/core/plan/plan.ts';
import type { Forecast } from '../../src/core/sends/forecast.ts';
import { setServer, useServer } from '../../src/ui/server.ts';
import type { Draft } from '../../src/views/write/draft.ts';
import { useForecast } from '../../src/views/write/useForecast.ts';
import { useWriting } from '../../src/views/write/useWriting.ts';
import { answerWith, sent, type Sent } from './page.ts';

const forecast = (people: number, part: Partial<Forecast> = {}): Forecast => ({
  people,
  sample: [],
  byMail: 0,
  contacts: 0,
  boards: [],
  outside: [],
  onBoards: 0,
  missed: [],
  onLeave: 0,
  phrases: [],
  problems: [],
  warnings: [],
  right: { outcome: 'allowed' },
  toEveryone: false,
  span: null,
  bands: [],
  coming: [],
  resting: null,
  clearance: [],
  clockNote: null,
  chases: { dues: [], listMs: null },
  ...part,
});
const to = (id: number): Plan => ({ ...EMPTY_PLAN, audience: { kind: 'group', id } });
const draft: Draft = {
  id: 7,
  content: { ...EMPTY_CONTENT, title: 'Road closed' },
  plan: to(1),
  revision: 3,
  savedMs: 1,
  savedByName: 'Maud Fenwright',
  state: 'draft',
  review: 'cleared',
  reviewByName: 'Wren Ashdown',
  reviewAskedName: null,
  purpose: 'send',
  clearing: null,
};
const audienceOf = ({ body }: Sent): number => {
  const { plan, audience = plan?.audience } = body as { plan?: Plan; audience?: Plan['audience'] };
  return audience?.kind === 'group' ? audience.id : 0;
};
const asked = (path: string): number[] => sent.filter((each) => each.path === path).map(audienceOf);

describe('what a plan would do, as it is written', () => {
  it('is not asked for what the page came with, nor for a letter more; the count comes first, the rest follows', async () => {
    let whole: (() => void) | undefined;
    answerWith(async (request) => {
      if (request.path === '/api/count') return { body: { people: 20 + audienceOf(request), sample: [] } };
      await new Promise<void>((resolve) => (whole = resolve));
      return { body: forecast(20 + audienceOf(request), { byMail: 9 }) };
    });
    const { result, rerender } = renderHook(
      ({ plan, title }) => useForecast(forecast(21), plan, { ...EMPTY_CONTENT, title }),
      { initialProps: { plan: to(1), title: 'Road' } },
    );
    rerender({ plan: to(1), title: 'Road closed' });
    expect(result.current.forecast).toMatchObject({ people: 21, byMail: 0 });
    rerender({ plan: to(2), title: 'Road closed' });
    await waitFor(() => expect(result.current.forecast).toMatchObject({ people: 22, byMail: 0 }));
    await waitFor(() => expect(whole).toBeDefined());
    expect([asked('/api/count'), asked('/api/forecast')]).toEqual([[2], [2]]);
    whole?.();
    await waitFor(() => expect(result.current.forecast).toMatchObject({ people: 22, byMail: 9 }));
  });

  it('is that of the latest plan, however late the answer to an earlier one comes', async () => {
    const held = new Map<number, () => void>();
    answerWith(async (request) => {
      const id = audienceOf(request);
      if (request.path === '/api/count') return { body: { people: 20 + id, sample: [] } };
      await new Promise<void>((resolve) => held.set(id, resolve));
      return { body: forecast(20 + id, { byMail: id }) };
    });
    const { result, rerender } = renderHook(({ plan }) => useForecast(forecast(21), plan, EMPTY_CONTENT), {
      initialProps: { plan: to(1) },
    });
    rerender({ plan: to(2) });
    await waitFor(() => expect(held.has(2)).toBe(true));
    rerender({ plan: to(3) });
    await waitFor(() => expect(held.has(3)).toBe(true));
    held.get(3)?.();
    await waitFor(() => expect(result.current.forecast.byMail).toBe(3));
    held.get(2)?.();
    await act(() => new Promise((resolve) => setTimeout(resolve, 50)));
    expect(result.current.forecast).toMatchObject({ people: 23, byMail: 3 });
  });
});

describe('a draft on the writing screen', () => {
  const written = () => renderHook(() => useWriting(draft, forecast(25), { name: 'Maud Fenwright' })).result;

  it('waits to be cleared again once it is changed, and is not asked about while something keeps it from going', async () => {
    answerWith(({ path }) =>
      path === '/api/forecast'
        ? { body: forecast(25) }
        : path.endsWith('/comments')
          ? { body: [{ id: 1, settledMs: null }] }
          : { body: { revision: 4, savedMs: 2 } },
    );
    const writing = written();
    expect(writing.current.review.state).toBe('cleared');
    act(() => writing.current.edit({ title: '' }));
    expect(writing.current.review).toMatchObject({ state: 'for review', by: 'Maud Fenwright' });
    await act(() => writing.current.sending.askLast());
    expect(writing.current.about('title')).toMatch(/title/i);
    expect(writing.current.sending.asking).toBeUndefined();
    act(() => writing.current.edit({ title: 'Road closed below the gorge' }));
    expect(writing.current.about('title')).toBeUndefined();
  });

  it('goes with one key however often it is pressed, and says what the server refuses', async () => {
    const keys: (string | null)[] = [];
    const fetched = fetch;
    globalThis.fetch = ((path: string, options: RequestInit) => {
      if (path.endsWith('/send')) keys.push(new Headers(options.headers).get('idempotency-key'));
      return fetched(path, options);
    }) as typeof fetch;
    answerWith(({ path }) =>
      path.endsWith('/send')
        ? { status: 409, body: { detail: 'Somebody else has saved it meanwhile.' } }
        : { body: { revision: 4, savedMs: 2 } },
    );
    const writing = written();
    act(() => writing.current.sending.ask('send'));
    await act(() => writing.current.sending.goOut('send'));
    await act(() => writing.current.sending.goOut('send'));
    expect(writing.current.error).toBe('Somebody else has saved it meanwhile.');
    expect(writing.current.busy).toBe(false);
    expect(keys).toHaveLength(2);
    expect(new Set(keys).size).toBe(1);
  });
});

describe('what an answer puts in place', () => {
  it('is not overtaken by what was being fetched when it came', async () => {
    let late: (() => void) | undefined;
    answerWith(async () => {
      await new Promise<void>((resolve) => (late = resolve));
      return { body: ['old'] };
    });
    const { result } = renderHook(() => useServer<never, string[]>('/api/set' as never));
    await waitFor(() => expect(late).toBeDefined());
    await act(() => setServer('/api/set' as never, ['new'] as never));
    late?.();
    await act(() => new Promise((resolve) => setTimeout(resolve, 50)));
    expect(result.current.data).toEqual(['new']);
  });
});
