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
