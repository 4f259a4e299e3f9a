import { act, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { hydrateRoot, type Root } from 'react-dom/client';
import { renderToString } from 'react-dom/server';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Awake } from '../../src/ui/Awake.tsx';
import Clock from '../../src/ui/Clock.tsx';
import { lazily } from '../../src/ui/lazily.tsx';
import { useAwake } from '../../src/ui/useAwake.ts';

let made = 0;
function Matter() {
  made++;
  const [pressed, setPressed] = useState(0);
  return (
    <button type="button" onClick={() => setPressed(pressed + 1)}>
      Pressed {pressed} times
    </button>
  );
}
const Asleep = () => <span>{useAwake() ? 'awake' : 'asleep'}</span>;

/** Takes over what the server sent of a page, as the browser does; fails where the two differ. */
async function takeOver(page: React.ReactElement): Promise<Root> {
  const place = document.createElement('div');
  place.innerHTML = renderToString(page);
  document.body.append(place);
  let root: Root | undefined;
  // What waits for its turn is done before it goes on.
  // eslint-disable-next-line @typescript-eslint/require-await
  await act(async () => {
    root = hydrateRoot(place, page, {
      onRecoverableError: (error) => {
        throw error;
      },
    });
  });
  if (!root) throw new Error('Nothing was taken over');
  return root;
}

let near: (() => void)[] = [];
beforeEach(() => {
  made = 0;
  near = [];
  vi.stubGlobal(
    'IntersectionObserver',
    class {
      readonly #tell: () => void;
      constructor(tell: (entries: { isIntersecting: boolean }[]) => void) {
        this.#tell = () => tell([{ isIntersecting: true }]);
      }
      observe(): void {
        near.push(this.#tell);
      }
      disconnect(): void {
        near = near.filter((each) => each !== this.#tell);
      }
    },
  );
});
afterEach(() => {
  vi.unstubAllGlobals();
  document.body.replaceChildren();
});

const Meanwhile = ({ name }: { name: string }) => <p>{name} is on its way</p>;
const Field = ({ name }: { name: string }) => <p>{name} is here</p>;

// First, since from the first press on a page is in use for good.
describe('what is fetched when it is needed', () => {
  it('is fetched once its place comes near, by itself and not before', async () => {
    const load = vi.fn(() => Promise.resolve(Field));
    const Lazy = lazily(load, Meanwhile, 'near');
    const root = await takeOver(
      <>
        <Lazy name="The first" />
        <Lazy name="The second" />
      </>,
    );
    expect(load).not.toHaveBeenCalled();
    expect(near).toHaveLength(2);
    near[0]?.();
    await screen.findByText('The first is here');
    screen.getByText('The second is on its way');
    expect(load).toHaveBeenCalledOnce();
    root.unmount();
  });

  it('says so where it cannot be fetched', async () => {
    const Lazy = lazily(() => Promise.reject(new Error('no connection')), Meanwhile);
    render(<Lazy name="It" />);
    await screen.findByText(/could not be fetched/);
  });
});

describe('what the server sent', () => {
  it('is out of use until it is taken over, and is not made anew when it wakes', async () => {
    const page = (
      <Awake>
        <Matter />
      </Awake>
    );
    expect(renderToString(page)).toContain('<fieldset disabled=""');
    made = 0;
    const root = await takeOver(page);
    const button = screen.getByRole('button');
    expect(button.closest('fieldset')?.disabled).toBe(false);
    // Once for the server and once to take it over; waking made it no third time.
    expect(made).toBe(2);
    await userEvent.click(button);
    expect(button.textContent).toBe('Pressed 1 times');
    root.unmount();
  });

  it('differs from what the script makes itself, which is awake from the first', async () => {
    expect(renderToString(<Asleep />)).toContain('asleep');
    const seen: string[] = [];
    const Watching = () => {
      seen.push(useAwake() ? 'awake' : 'asleep');
      return null;
    };
    render(<Watching />);
    expect(new Set(seen)).toEqual(new Set(['awake']));
    seen.length = 0;
    const root = await takeOver(<Watching />);
    expect(seen.at(0)).toBe('asleep');
    expect(seen.at(-1)).toBe('awake');
    root.unmount();
  });
});

describe('a page in use', () => {
  it('has what is near and far fetched, and what was fetched stands there at once where it was fetched before', async () => {
    const load = vi.fn(() => Promise.resolve(Field));
    const Lazy = lazily(load, Meanwhile, 'near');
    const root = await takeOver(<Lazy name="The first" />);
    await userEvent.keyboard('{Tab}');
    await screen.findByText('The first is here');
    render(<Lazy name="One in a dialog" />);
    screen.getByText('One in a dialog is here');
    // What the server sent before it was fetched is taken over as it was sent.
    const later = await takeOver(<Lazy name="One more" />);
    screen.getByText('One more is here');
    expect(load).toHaveBeenCalledOnce();
    root.unmount();
    later.unmount();
  });
});

describe('the clock of a page', () => {
  const AT = Date.UTC(2026, 2, 2, 9, 0);
  const shown = (online: boolean): string => {
    vi.useFakeTimers({ now: AT + 3_600_000 });
    vi.spyOn(navigator, 'onLine', 'get').mockReturnValue(online);
    render(<Clock nowMs={AT} zone="UTC" />);
    act(() => {
      vi.advanceTimersByTime(2_000);
    });
    return screen.getByText(/^\d\d:\d\d$/).textContent;
  };
  afterEach(() => {
    vi.useRealTimers();
    vi.restoreAllMocks();
  });

  it('is the server’s, whatever the device says', () => {
    expect(shown(true)).toBe('09:00');
  });

  it('is the device’s without a connection, where the page was kept an hour ago', () => {
    expect(shown(false)).toBe('10:00');
  });
});
