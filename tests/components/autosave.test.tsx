import { act, renderHook, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { EMPTY_CONTENT } from '../../src/core/content/announcement.ts';
import { EMPTY_PLAN } from '../../src/core/plan/plan.ts';
import { kept } from '../../src/ui/kept.ts';
import type { Draft } from '../../src/views/write/draft.ts';
import { forgetUnsavedText, useAutosave, useUnsavedText } from '../../src/views/write/useAutosave.ts';
import { answerWith, sent } from './page.ts';

const draft: Draft = {
  id: 7,
  content: EMPTY_CONTENT,
  plan: EMPTY_PLAN,
  revision: 3,
  savedMs: 1,
  savedByName: 'Maud Fenwright',
  state: 'draft',
  review: 'none',
  reviewByName: null,
  reviewAskedName: null,
  purpose: 'send',
  clearing: null,
};
const called = (title: string) => ({ content: { ...draft.content, title }, plan: draft.plan });
const titles = (): string[] => sent.map(({ body }) => (body as { content: { title: string } }).content.title);
const keptTitle = (): string | undefined =>
  (kept('draft:7') as { content: { title: string } } | undefined)?.content.title;
const leaving = (): boolean => {
  const event = new Event('beforeunload', { cancelable: true });
  dispatchEvent(event);
  return !event.defaultPrevented;
};

describe('a draft that is written on', () => {
  it('is kept in this browser at once, saved soon, one save at a time and only its last text', async () => {
    let answer: (() => void) | undefined;
    answerWith(async () => {
      await new Promise<void>((resolve) => (answer = resolve));
      return { body: { revision: 3 + sent.length, savedMs: 10 } };
    });
    const { result } = renderHook(() => useAutosave(draft));
    act(() => result.current.changed(called('One')));
    expect(keptTitle()).toBe('One');
    expect(leaving()).toBe(false);
    act(() => result.current.changed(called('Two')));
    await waitFor(() => expect(titles()).toEqual(['Two']));
    // Written on while that is on its way.
    act(() => result.current.changed(called('Three')));
    let flushed: Promise<number | null> | undefined;
    act(() => {
      flushed = result.current.flush();
    });
    answer?.();
    await waitFor(() => expect(titles()).toEqual(['Two', 'Three']));
    expect(sent[1]?.body).toMatchObject({ revision: 4, saveOver: false });
    expect(keptTitle()).toBe('Three');
    answer?.();
    expect(await flushed).toBe(5);
    await waitFor(() => expect(result.current.saving).toEqual({ state: 'saved', savedMs: 10 }));
    expect(keptTitle()).toBeUndefined();
    expect(leaving()).toBe(true);
  });

  it('that another saved meanwhile is saved over that only when it is told to', async () => {
    answerWith(() => ({ status: 409, body: { detail: 'No.', revision: 9, savedBy: 'Wren', savedMs: 5 } }));
    const { result } = renderHook(() => useAutosave(draft));
    act(() => result.current.changed(called('Mine')));
    expect(await act(() => result.current.flush())).toBeNull();
    const conflict = { revision: 9, savedBy: 'Wren', savedMs: 5 };
    expect(result.current.saving).toEqual({ state: 'conflict', conflict });
    // What is written on is kept, and not sent.
    act(() => result.current.changed(called('Mine, longer')));
    await act(() => result.current.flush());
    expect(titles()).toEqual(['Mine']);
    expect(keptTitle()).toBe('Mine, longer');
    expect(leaving()).toBe(false);
    answerWith(() => ({ body: { revision: 10, savedMs: 20 } }));
    await act(() => result.current.saveOver(conflict));
    expect(sent.at(-1)?.body).toMatchObject({ ...called('Mine, longer'), revision: 9, saveOver: true });
    expect(result.current.saving).toEqual({ state: 'saved', savedMs: 20 });
    expect(keptTitle()).toBeUndefined();
  });

  it('that is refused says so, and one that could not be sent is sent again by itself', async () => {
    answerWith(() => ({ status: 422, body: { detail: 'Too long.', errors: [] } }));
    const { result } = renderHook(() => useAutosave(draft));
    act(() => result.current.changed(called('Too long')));
    await act(() => result.current.flush());
    expect(result.current.saving).toMatchObject({ state: 'refused' });
    expect(keptTitle()).toBe('Too long');
    let down = true;
    answerWith(() => {
      if (down) throw new TypeError('the network is down');
      return { body: { revision: 4, savedMs: 30 } };
    });
    act(() => result.current.changed(called('Shorter')));
    await act(() => result.current.flush());
    expect(result.current.saving).toMatchObject({ state: 'failed' });
    down = false;
    await waitFor(() => expect(result.current.saving).toEqual({ state: 'saved', savedMs: 30 }));
    expect(titles().at(-1)).toBe('Shorter');
  });

  it('and was not saved is offered when it is opened again, unless the server has it', async () => {
    const { result } = renderHook(() => useAutosave(draft));
    act(() => result.current.changed(called('Left behind')));
    const again = renderHook(() => useUnsavedText(7, draft));
    await waitFor(() => expect(again.result.current?.content.title).toBe('Left behind'));
    const has = renderHook(() => useUnsavedText(7, called('Left behind')));
    await waitFor(() => expect(keptTitle()).toBeUndefined());
    expect(has.result.current).toBeNull();
    forgetUnsavedText(7);
  });
});
