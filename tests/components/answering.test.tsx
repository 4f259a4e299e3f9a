import { act, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { AskBox as Box, PollBox } from '../../src/core/asks/box.ts';
import type { Phrase, PhraseKey } from '../../src/core/plan/sentence.ts';
import AskBox from '../../src/ui/ask/AskBox.tsx';
import { done } from '../../src/ui/toast.ts';
import { PHRASE_LABELS } from '../../src/views/write/draft.ts';
import { Sentence } from '../../src/ui/Sentence.tsx';
import { answerWith, sent } from './page.ts';

const BOX: Box = {
  occurrenceId: 12,
  kind: 'acknowledgement',
  deadlineMs: null,
  closedMs: null,
  answeredMs: null,
  earlierMs: null,
  statement: '',
  asked: 3,
  answered: 0,
  poll: null,
  checkIn: null,
};
const POLL: PollBox = {
  question: 'In which order?',
  kind: 'ranking',
  limit: null,
  scale: 5,
  method: 'schulze',
  anonymous: false,
  shown: 'after closing',
  rules: ['With names: whoever asked sees who chose what.'],
  adding: false,
  options: ['Soup', 'Bread', 'Tea'].map((words, i) => ({ id: i + 1, words, addedBy: null })),
  mine: null,
  outcome: null,
  hidden: 'It is shown once it has closed.',
};
const leaving = (): boolean => {
  const event = new Event('beforeunload', { cancelable: true });
  dispatchEvent(event);
  return !event.defaultPrevented;
};
/** Waits until what takes the answer has come. */
const comes = (): Promise<void> =>
  waitFor(() => expect(document.querySelector('fieldset[disabled]')).toBeNull());
const shown = (box: Partial<Box>) =>
  render(<AskBox occurrenceId={12} first={{ ...BOX, ...box }} zone="UTC" nowMs={0} />);

describe('what is asked of a reader', () => {
  beforeEach(() => {
    document.body.dataset.me = '5';
    localStorage.clear();
  });
  afterEach(() => delete document.body.dataset.me);

  it('is acknowledged with one press, once', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ body: { ...BOX, answeredMs: 0 } }));
    shown({ statement: 'I have read it.' });
    await user.click(screen.getByRole('button', { name: 'I agree and acknowledge' }));
    await screen.findByText(/^You acknowledged this/);
    expect(sent).toEqual([{ method: 'POST', path: '/api/asks/12/answer', body: {} }]);
    expect(screen.queryByRole('button')).toBeNull();
  });

  it('sends an order as it stands after it was changed', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ body: { ...BOX, kind: 'poll', poll: POLL, answeredMs: 0 } }));
    shown({ kind: 'poll', poll: POLL });
    await comes();
    for (const words of ['Soup', 'Bread', 'Tea'])
      await user.click(screen.getByRole('button', { name: words }));
    (await screen.findByRole('button', { name: 'Move Tea, place 3 of 3' })).focus();
    await user.keyboard('{ArrowUp}');
    await user.click(screen.getByRole('button', { name: 'Take Soup out of the order' }));
    await user.click(screen.getByRole('button', { name: /vote/i }));
    await screen.findByText(/^You voted/);
    expect(sent.at(-1)!.body).toEqual({ ranking: [3, 2] });
  });

  it('keeps an answer given without a connection, and says what the server refuses', async () => {
    const user = userEvent.setup();
    shown({});
    await user.click(screen.getByRole('button', { name: 'Acknowledge' }));
    await screen.findByText(/^Your answer is kept on this device/);
    expect(screen.queryByRole('button', { name: 'Acknowledge' })).toBeNull();
  });

  it('leaves the press where it was refused', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ status: 409, body: { detail: 'It has closed.' } }));
    shown({});
    await user.click(screen.getByRole('button', { name: 'Acknowledge' }));
    await screen.findByText('It has closed.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Acknowledge' }).disabled).toBe(false);
  });
});

describe('a ballot', () => {
  it('keeps what was chosen where it is refused, says why, asks before it is left, and is sent again', async () => {
    const user = userEvent.setup();
    const single: PollBox = { ...POLL, kind: 'single' };
    answerWith(({ body }) =>
      JSON.stringify(body) === '{"choices":[2]}'
        ? { status: 409, body: { detail: 'Too many chose Bread.' } }
        : { body: { ...BOX, kind: 'poll', poll: single, answeredMs: 0 } },
    );
    shown({ kind: 'poll', poll: single });
    await comes();
    const vote = screen.getByRole<HTMLButtonElement>('button', { name: 'Vote' });
    expect(vote.disabled).toBe(true);
    await user.click(screen.getByRole('radio', { name: 'Bread' }));
    expect(leaving()).toBe(false);
    await user.click(vote);
    await screen.findByText('Too many chose Bread.');
    expect(screen.getByRole<HTMLInputElement>('radio', { name: 'Bread' }).checked).toBe(true);
    await user.click(screen.getByRole('radio', { name: 'Tea' }));
    await user.click(vote);
    await screen.findByText(/^You voted/);
    expect(sent.map(({ body }) => body)).toEqual([{ choices: [2] }, { choices: [3] }]);
    expect(leaving()).toBe(true);
  });

  it('begins with what was chosen in the mail, or with the vote that is changed', () => {
    const single: PollBox = { ...POLL, kind: 'single' };
    const of = (name: string): boolean => screen.getByRole<HTMLInputElement>('radio', { name }).checked;
    const { unmount } = render(
      <AskBox
        occurrenceId={12}
        first={{ ...BOX, kind: 'poll', poll: single }}
        preset={3}
        zone="UTC"
        nowMs={0}
      />,
    );
    expect(['Soup', 'Bread', 'Tea'].map(of)).toEqual([false, false, true]);
    unmount();
    const dates: PollBox = { ...POLL, kind: 'dates', mine: { kind: 'dates', answers: { 1: 'yes' } } };
    render(
      <AskBox
        occurrenceId={13}
        first={{ ...BOX, occurrenceId: 13, kind: 'poll', poll: dates }}
        zone="UTC"
        nowMs={0}
      />,
    );
    expect(['Soup: yes', 'Bread: no', 'Tea: no'].map(of)).toEqual([true, true, true]);
  });
});

describe('a check-in', () => {
  const CHECK_IN: Box = {
    ...BOX,
    kind: 'check-in',
    checkIn: {
      questions: [
        { kind: 'text', text: 'What did you do?', part: 'done', needed: true, options: [] },
        { kind: 'number', text: 'How many crates?', part: 'none', needed: false, options: [] },
        { kind: 'choice', text: 'Where?', part: 'none', needed: false, options: ['Hall', 'Yard'] },
        { kind: 'blocked', text: 'Something is in my way', part: 'none', needed: false, options: [] },
      ],
      answers: {},
      offered: false,
    },
  };
  const field = (name: string | RegExp): HTMLInputElement => screen.getByLabelText<HTMLInputElement>(name);
  beforeEach(() => {
    document.body.dataset.me = '5';
    localStorage.clear();
  });
  afterEach(() => delete document.body.dataset.me);

  it('says what is wrong at its question, which has the focus, and sends what was said without what was not', async () => {
    const user = userEvent.setup();
    answerWith(({ body }) =>
      JSON.stringify(body).includes('many')
        ? {
            status: 422,
            body: { detail: 'It is not so.', errors: [{ field: 'answers.1', detail: 'Write a number.' }] },
          }
        : { body: { ...CHECK_IN, answeredMs: 0 } },
    );
    shown(CHECK_IN);
    await comes();
    await user.type(field('What did you do?'), 'Swept');
    await user.type(field(/How many crates/), 'many');
    await user.click(screen.getByRole('checkbox', { name: 'Something is in my way' }));
    await user.type(field(/By what/), 'Rain');
    await user.click(screen.getByRole('checkbox', { name: 'Something is in my way' }));
    await user.click(screen.getByRole('button', { name: 'Check in' }));
    await screen.findByText('Write a number.');
    const crates = field(/How many crates/);
    expect(document.activeElement).toBe(crates);
    expect(crates.getAttribute('aria-invalid')).toBe('true');
    expect(document.getElementById(crates.getAttribute('aria-describedby')!)?.textContent).toBe(
      'Write a number.',
    );
    await user.clear(crates);
    await user.type(crates, '7');
    await user.click(screen.getByRole('button', { name: 'Check in' }));
    await screen.findByText(/^You checked in/);
    expect(sent.map(({ body }) => body)).toEqual([
      { answers: { 0: 'Swept', 1: 'many' } },
      { answers: { 0: 'Swept', 1: '7' } },
    ]);
  });

  it('asks for words where something blocks them, and takes nothing for an answer that is none', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ body: { ...CHECK_IN, answeredMs: 0 } }));
    shown(CHECK_IN);
    await comes();
    await user.type(field('What did you do?'), 'Swept');
    await user.click(screen.getByRole('checkbox', { name: 'Something is in my way' }));
    await user.click(screen.getByRole('button', { name: 'Check in' }));
    await screen.findByText('Write what it is, or take the tick away.');
    expect(document.activeElement).toBe(field(/By what/));
    expect(sent).toEqual([]);
    // Without the tick there is nothing to say.
    await user.click(screen.getByRole('checkbox', { name: 'Something is in my way' }));
    await waitFor(() => expect(screen.queryByText('Write what it is, or take the tick away.')).toBeNull());
    await user.click(screen.getByRole('button', { name: 'Check in' }));
    await screen.findByText(/^You checked in/);
    expect(sent.map(({ body }) => body)).toEqual([{ answers: { 0: 'Swept' } }]);
  });

  it('outlives a reload, and is forgotten once it was taken, on the page or to be sent later', async () => {
    const user = userEvent.setup();
    const { unmount } = shown(CHECK_IN);
    await comes();
    await user.type(field('What did you do?'), 'Swept half');
    await user.click(screen.getByRole('checkbox', { name: 'Something is in my way' }));
    await user.type(field(/By what/), 'Rain');
    unmount();
    const again = shown(CHECK_IN);
    await comes();
    await waitFor(() => expect(field('What did you do?').value).toBe('Swept half'));
    expect(field(/By what/).value).toBe('Rain');
    await user.click(screen.getByRole('button', { name: 'Check in' }));
    await screen.findByText(/^Your answer is kept on this device/);
    again.unmount();
    // What a version of before kept is of another shape, and none of its own.
    localStorage.setItem('clear-bell:5:check-in:12', JSON.stringify({ 0: 'Of before' }));
    render(<AskBox occurrenceId={12} first={CHECK_IN} zone="UTC" nowMs={0} />);
    expect(document.body.textContent).not.toContain('Swept half');
  });

  it('shows what was said when it is changed, and keeps none of that on the device', async () => {
    const user = userEvent.setup();
    shown({
      ...CHECK_IN,
      answeredMs: 0,
      checkIn: { ...CHECK_IN.checkIn!, answers: { 0: 'Swept', 2: 'Yard' } },
    });
    await user.click(screen.getByRole('button', { name: 'Change what I said' }));
    await comes();
    expect(field('What did you do?').value).toBe('Swept');
    expect(screen.getByRole<HTMLInputElement>('checkbox', { name: 'Something is in my way' }).checked).toBe(
      false,
    );
    await user.type(field('What did you do?'), ' all');
    expect(localStorage.length).toBe(0);
  });
});

describe('the sentence', () => {
  const phrases: Phrase[] = [
    { key: 'whom', lead: 'To', words: 'nobody yet' },
    { key: 'when', lead: 'at', words: 'nine' },
  ];
  function Plan() {
    const [open, setOpen] = useState<PhraseKey | null>(null);
    return (
      <Sentence
        phrases={phrases}
        labels={PHRASE_LABELS}
        open={open}
        onOpen={setOpen}
        panel={(key) => <input aria-label={`field of ${key}`} />}
      />
    );
  }

  it('opens what is pressed with the focus in it, and gives the focus back', async () => {
    const user = userEvent.setup();
    render(<Plan />);
    const phrase = screen.getByRole('button', { name: /When it goes out/ });
    await user.click(phrase);
    expect(document.activeElement).toBe(screen.getByLabelText('field of when'));
    await user.keyboard('{Escape}');
    expect(screen.queryByRole('group')).toBeNull();
    expect(document.activeElement).toBe(phrase);
    await user.click(phrase);
    await user.click(screen.getByRole('button', { name: /Who gets it/ }));
    expect(screen.getByRole('group', { name: 'Who gets it' })).toBeTruthy();
    expect(screen.queryByRole('group', { name: 'When it goes out' })).toBeNull();
  });
});

describe('what was done', () => {
  it('is said, is undone on a press, and says why where it cannot be', async () => {
    const user = userEvent.setup();
    let undone = 0;
    await act(() =>
      done('Ada has left.', () => {
        undone++;
        return Promise.reject(new Error('She is gone for good.'));
      }),
    );
    await screen.findByText('Ada has left.');
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(undone).toBe(1));
    await screen.findByText('She is gone for good.');
  });
});
