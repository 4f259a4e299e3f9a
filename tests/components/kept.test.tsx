import { act, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { request } from '../../src/ui/api.ts';
import { FormProblem, LinesField, TextField } from '../../src/ui/form/fields.tsx';
import { keep, kept } from '../../src/ui/kept.ts';
import { UNKEPT, useKeptForm } from '../../src/ui/form/useKeptForm.ts';
import { Thread } from '../../src/views/check-in/Thread.tsx';
import { answerWith, sent } from './page.ts';

beforeEach(() => localStorage.clear());

function Note({ name = 'note:1' }: { name?: string | null }) {
  const form = useKeptForm({
    keep: name,
    values: { title: '', text: '', files: [] as string[] },
    send: (given) => request('POST', '/api/notes' as never, given as never),
  });
  return (
    <form onSubmit={(event) => void form.submit(event)}>
      <TextField form={form} name="title" label="Title" />
      <LinesField form={form} name="text" label="Text" />
      {form.formState.errors.files ? <p>{form.formState.errors.files.message}</p> : null}
      {form.unkept ? <p>{UNKEPT}</p> : null}
      <FormProblem form={form} />
      <output>{form.turn}</output>
      <button>Send</button>
      <button type="button" onClick={form.leave}>
        Leave it
      </button>
    </form>
  );
}
const text = (): HTMLTextAreaElement => screen.getByLabelText<HTMLTextAreaElement>('Text');
const leaving = (): boolean => {
  const event = new Event('beforeunload', { cancelable: true });
  dispatchEvent(event);
  return !event.defaultPrevented;
};

describe('a form that is kept on the device', () => {
  it('has what was written once it is opened again, asks before it is left, and says how often it was filled by itself', async () => {
    const user = userEvent.setup();
    const { unmount } = render(<Note />);
    await user.type(text(), 'Half of it');
    await waitFor(() => expect(kept('note:1')).toEqual({ title: '', text: 'Half of it', files: [] }));
    expect(screen.getByRole('status').textContent).toBe('0');
    unmount();
    render(<Note />);
    await waitFor(() => expect(text().value).toBe('Half of it'));
    expect(screen.getByRole('status').textContent).toBe('1');
    expect(leaving()).toBe(false);
    // Another text has its own place, and what is changed has none.
    render(<Note name="note:2" />);
    expect(screen.getAllByLabelText<HTMLTextAreaElement>('Text')[1]?.value).toBe('');
  });

  it('forgets it once it was sent, begins again, and keeps and guards the next likewise', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ body: { id: 1 } }));
    render(<Note />);
    await user.type(text(), 'First');
    await user.click(screen.getByRole('button', { name: 'Send' }));
    await waitFor(() => expect(text().value).toBe(''));
    expect(kept('note:1')).toBeUndefined();
    expect(leaving()).toBe(true);
    await user.type(text(), 'Second');
    await waitFor(() => expect(kept('note:1')).toEqual({ title: '', text: 'Second', files: [] }));
    expect(leaving()).toBe(false);
    await user.click(screen.getByRole('button', { name: 'Send' }));
    await waitFor(() =>
      expect(sent.map(({ body }) => body)).toEqual([
        { title: '', text: 'First', files: [] },
        { title: '', text: 'Second', files: [] },
      ]),
    );
    await waitFor(() => expect(kept('note:1')).toBeUndefined());
  });

  it('keeps what was refused, with the reason at its field', async () => {
    const user = userEvent.setup();
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'title', detail: 'Give it a title.' }] },
    }));
    render(<Note />);
    await user.type(text(), 'Without a title');
    await user.click(screen.getByRole('button', { name: 'Send' }));
    await screen.findByText('Give it a title.');
    expect(screen.getByLabelText('Title').getAttribute('aria-invalid')).toBe('true');
    expect(text().value).toBe('Without a title');
    expect(kept('note:1')).toEqual({ title: '', text: 'Without a title', files: [] });
  });

  it('sends again what was refused for something that is no field of its own', async () => {
    const user = userEvent.setup();
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'files', detail: 'Attach the map.' }] },
    }));
    render(<Note />);
    await user.type(text(), 'See the map');
    await user.click(screen.getByRole('button', { name: 'Send' }));
    await screen.findByText('Attach the map.');
    answerWith(() => ({ body: { id: 1 } }));
    await user.click(screen.getByRole('button', { name: 'Send' }));
    await waitFor(() => expect(sent).toHaveLength(2));
    await waitFor(() => expect(text().value).toBe(''));
    expect(screen.queryByText('Attach the map.')).toBeNull();
  });

  it('forgets what is left, and what is written and taken back', async () => {
    const user = userEvent.setup();
    render(<Note />);
    await user.type(text(), 'Never mind');
    await user.click(screen.getByRole('button', { name: 'Leave it' }));
    await waitFor(() => expect(text().value).toBe(''));
    expect(kept('note:1')).toBeUndefined();
    await user.type(text(), 'x');
    await waitFor(() => expect(kept('note:1')).toEqual({ title: '', text: 'x', files: [] }));
    await user.clear(text());
    await waitFor(() => expect(kept('note:1')).toBeUndefined());
    expect(leaving()).toBe(true);
  });

  it('says so where this browser keeps nothing, and takes nothing of another shape for its own', async () => {
    const user = userEvent.setup();
    keep('note:1', 'a text alone, as it was kept once');
    render(<Note />);
    await act(() => Promise.resolve());
    expect(text().value).toBe('');
    vi.stubGlobal('localStorage', {
      getItem: () => null,
      setItem: () => {
        throw new DOMException('full', 'QuotaExceededError');
      },
    });
    await user.type(text(), 'x');
    await screen.findByText(UNKEPT);
  });
});

describe('a thread under what somebody said', () => {
  const said = {
    personId: 7,
    name: 'Wren Ashdown',
    station: null,
    answeredMs: 0,
    answers: {},
    blocked: true,
    unblocked: null,
    replies: 0,
  };
  const thread = (onChanged: () => void) => (
    <Thread said={said} page={{ occurrenceId: 3 } as never} zone="UTC" onChanged={onChanged} />
  );
  const reply = (): HTMLTextAreaElement =>
    screen.getByLabelText<HTMLTextAreaElement>('Reply to Wren Ashdown');

  it('sends a reply once however it is asked for, with the same key after a lost answer', async () => {
    const user = userEvent.setup();
    const changed = vi.fn();
    const keys: (string | null)[] = [];
    const network = fetch;
    vi.stubGlobal('fetch', (path: string, options: RequestInit) => {
      keys.push(new Headers(options.headers).get('idempotency-key'));
      return network(path, options);
    });
    render(thread(changed));
    await user.type(reply(), 'The key is with Keola.');
    await user.click(screen.getByRole('checkbox'));
    await user.click(screen.getByRole('button', { name: 'Reply' }));
    await screen.findByText(/cannot be reached just now/);
    expect(reply().value).toBe('The key is with Keola.');
    expect(changed).not.toHaveBeenCalled();
    answerWith(() => ({
      body: {
        said,
        replies: [{ id: 1, authorId: 2, author: 'Keola', text: 'The key is with Keola.', atMs: 0 }],
        earlier: null,
      },
    }));
    await user.click(screen.getByRole('button', { name: 'Reply' }));
    await waitFor(() => expect(reply().value).toBe(''));
    expect(changed).toHaveBeenCalledTimes(1);
    expect(sent.at(-1)?.body).toEqual({ text: 'The key is with Keola.', unblocks: true });
    expect(screen.getByRole<HTMLInputElement>('checkbox').checked).toBe(false);
    const [first, second] = keys.slice(-2);
    expect(first).toMatch(/^[0-9a-f]{32}$/);
    expect(second).toBe(first);
    expect(kept('thread:3:7')).toBeUndefined();
    // Another reply is another intent.
    await user.type(reply(), 'And it opens.');
    await user.click(screen.getByRole('button', { name: 'Reply' }));
    await waitFor(() => expect(changed).toHaveBeenCalledTimes(2));
    expect(keys.at(-1)).not.toBe(first);
  });
});
