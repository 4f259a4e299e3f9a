import { act, fireEvent, render, screen } from '@testing-library/react';
import { useState, type ReactNode } from 'react';
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { keepFocus } from '../../src/ui/focus.ts';
import './page.ts';

const scrolled: Element[] = [];
beforeAll(() => {
  // The page of the tests lays nothing out: what is not hidden counts as shown.
  vi.spyOn(Element.prototype, 'getClientRects').mockImplementation(function (this: Element) {
    return (this.closest('[hidden]') ? [] : [{}]) as never;
  });
  Element.prototype.scrollIntoView = function (this: Element) {
    scrolled.push(this);
  };
  keepFocus();
});
beforeEach(() => {
  scrolled.length = 0;
});
afterEach(() => (document.activeElement as HTMLElement | null)?.blur());

const PATIENT = { timeout: 20_000 };
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
/** Lets what is due within some milliseconds be drawn, and then what is done after that. */
const drawn = async (ms = 60): Promise<void> => {
  await act(() => wait(ms));
  await wait(200);
};
const focused = (): string =>
  document.activeElement?.getAttribute('aria-label') ?? document.activeElement?.tagName ?? '';
/** Waits until something has the focus. */
const has = (name: string): Promise<void> => vi.waitFor(() => expect(focused()).toBe(name), PATIENT);
const press = (name: string): HTMLElement => {
  const button = screen.getByRole('button', { name });
  button.focus();
  fireEvent.click(button);
  return button;
};

/** Two fields that may be wrong, and a button that says so a moment after it was pressed. */
function Form({ wrong, children }: { wrong: string[]; children?: ReactNode }) {
  const [told, setTold] = useState<string[]>([]);
  return (
    <div>
      {['Title', 'Text'].map((name) => (
        <span key={name}>
          <input aria-label={name} aria-invalid={told.includes(name)} />
          {told.includes(name) ? <p role="alert">{name} is needed.</p> : null}
        </span>
      ))}
      {children}
      <button aria-label="Send" onClick={() => setTimeout(() => setTold(wrong), 30)} />
    </div>
  );
}

describe('the focus', () => {
  it('goes to the first field that is wrong after something was pressed, which is brought into sight', async () => {
    render(<Form wrong={['Text']} />);
    press('Send');
    await drawn();
    await has('Text');
    expect(scrolled).toContain(screen.getByRole('textbox', { name: 'Text' }));
  });

  it('leaves what is wrong with no field where it stands, and brings it into sight', async () => {
    function Sent() {
      const [wrong, setWrong] = useState(false);
      return (
        <>
          <button aria-label="Send" onClick={() => setTimeout(() => setWrong(true), 30)} />
          {wrong ? <p role="alert">It cannot be sent now.</p> : null}
        </>
      );
    }
    render(<Sent />);
    press('Send');
    await drawn();
    await vi.waitFor(() => expect(scrolled).toEqual([screen.getByRole('alert')]), PATIENT);
    expect(focused()).toBe('Send');
  });

  it('stays with whoever goes on writing elsewhere meanwhile, and where nothing was pressed', async () => {
    const page = render(<Form wrong={['Title']} />);
    press('Send');
    screen.getByRole('textbox', { name: 'Text' }).focus();
    await drawn();
    expect(focused()).toBe('Text');
    page.unmount();
    // What turns out wrong by itself, as what somebody else changed, moves nobody.
    function Later() {
      const [wrong, setWrong] = useState(false);
      return <input aria-label="Other" aria-invalid={wrong} onBlur={() => setWrong(true)} />;
    }
    vi.useFakeTimers({ toFake: ['performance'] });
    vi.advanceTimersByTime(60_000);
    render(<Later />);
    const other = screen.getByRole('textbox', { name: 'Other' });
    other.focus();
    act(() => other.blur());
    fireEvent.pointerDown(document.body);
    await drawn();
    vi.useRealTimers();
    expect(focused()).toBe('BODY');
  });

  it('goes within the dialog that is open, past what is wrong behind it', async () => {
    render(
      <>
        <input aria-label="Behind" aria-invalid="true" />
        <div role="dialog" aria-label="Ask">
          <Form wrong={['Title', 'Text']} />
        </div>
      </>,
    );
    press('Send');
    await drawn();
    await has('Title');
  });

  it('comes back to a button that was out of use for a moment', async () => {
    function Busy() {
      const [busy, setBusy] = useState(false);
      return (
        <button
          aria-label="Save"
          disabled={busy}
          onClick={() => {
            setBusy(true);
            setTimeout(() => setBusy(false), 200);
          }}
        />
      );
    }
    render(<Busy />);
    const save = press('Save');
    await drawn(20);
    // A browser takes the focus from what is out of use.
    act(() => save.blur());
    await drawn(300);
    await has('Save');
  });

  it('goes to what stands nearest where what had it went away, and to nothing where that was given up on purpose', async () => {
    function List() {
      const [names, setNames] = useState(['One', 'Two']);
      return (
        <div>
          <ul>
            {names.map((name) => (
              <li key={name}>
                <button
                  aria-label={`Take out ${name}`}
                  onClick={() => setNames(names.filter((n) => n !== name))}
                />
              </li>
            ))}
          </ul>
          <button hidden aria-label="Not shown" />
          <button aria-label="Add one" />
        </div>
      );
    }
    render(<List />);
    press('Take out One');
    await drawn();
    await has('Take out Two');
    press('Take out Two');
    await drawn();
    // The list is empty: the nearest is what can be seen and pressed beside it.
    await has('Add one');
    act(() => (document.activeElement as HTMLElement).blur());
    fireEvent.pointerDown(document.body);
    render(<p>Something else changes.</p>);
    await drawn();
    expect(focused()).toBe('BODY');
  });
});
