import { render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it, vi } from 'vitest';
import { SourceDialog } from '../../src/views/automations/SourceDialog.tsx';
import { answerWith, sent } from './page.ts';

const RIVER = {
  id: 4,
  name: 'River',
  url: 'https://river.example/at?place={place}',
  header: 'x-key',
  hasSecret: true,
  fields: [{ name: 'level', pointer: '/level', kind: 'number' as const, unit: 'cm' }],
  keepMinutes: 30,
};

/** What is told as wrong with a field. */
function toldOf(field: HTMLElement): string | undefined {
  const told = field.getAttribute('aria-describedby');
  return told === null ? undefined : document.getElementById(told)?.textContent;
}
const field = (label: string, nth = 0): HTMLInputElement =>
  screen.getAllByLabelText<HTMLInputElement>(label)[nth]!;

it('tells at its own field what is wrong with a source, also of one of its values, and keeps what was written', async () => {
  const user = userEvent.setup();
  const reload = vi.spyOn(location, 'reload').mockReturnValue();
  render(<SourceDialog given={null} onClose={() => undefined} />);
  await screen.findByRole('dialog');
  await user.clear(field('Address, with {place} where an input stands'));
  await user.type(field('Address, with {place} where an input stands'), 'ftp://river.example');
  await user.clear(field('Minutes an answer is kept'));
  await user.type(field('Called'), 'level');
  await user.click(screen.getByRole('button', { name: 'Add a value' }));
  await user.type(field('Called', 1), 'Level');
  await user.clear(field('Where it stands (JSON pointer)', 1));
  await user.type(field('Where it stands (JSON pointer)', 1), 'level');
  await user.click(screen.getByRole('button', { name: 'Add it' }));

  await waitFor(() => expect(toldOf(field('Name'))).toBe('Give it a name'));
  expect(toldOf(field('Address, with {place} where an input stands'))).toBe(
    'An address begins with https:// or http://',
  );
  expect(toldOf(field('Minutes an answer is kept'))).toBe(
    'Write a whole number of minutes; 0 asks each time',
  );
  expect(toldOf(field('Where it stands (JSON pointer)', 1))).toBe(
    'A pointer is written such as /river/level',
  );
  expect(toldOf(field('Where it stands (JSON pointer)'))).toBeUndefined();
  expect(sent).toEqual([]);

  // Two of one name are told of once all else holds: what was written is still there.
  await user.type(field('Name'), 'River');
  await user.clear(field('Address, with {place} where an input stands'));
  await user.type(field('Address, with {place} where an input stands'), 'https://river.example/at');
  await user.type(field('Minutes an answer is kept'), '5');
  await user.clear(field('Where it stands (JSON pointer)', 1));
  await user.type(field('Where it stands (JSON pointer)', 1), '/level');
  await user.click(screen.getByRole('button', { name: 'Add it' }));
  await waitFor(() => expect(toldOf(field('Called', 1))).toBe('Two values are called “level”. Rename one.'));
  await user.click(screen.getAllByRole('button', { name: 'Take out' })[0]!);
  expect(screen.queryAllByRole('button', { name: 'Take out' })).toEqual([]);
  expect(field('Called').value).toBe('Level');
  answerWith(() => ({ body: { id: 9 } }));
  await user.click(screen.getByRole('button', { name: 'Add it' }));
  await waitFor(() => expect(reload).toHaveBeenCalledOnce());
  expect(sent).toHaveLength(1);
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/api/sources',
    body: {
      source: {
        name: 'River',
        url: 'https://river.example/at',
        header: '',
        fields: [{ name: 'Level', pointer: '/level', kind: 'text', unit: '' }],
        keepMinutes: 5,
      },
      secret: '',
    },
  });
});

it('asks a source with its inputs before it is kept, and shows what it answered and what of it would be used', async () => {
  const user = userEvent.setup();
  render(<SourceDialog given={RIVER} onClose={() => undefined} />);
  await screen.findByRole('dialog');
  await user.type(field('To ask it now: place'), 'Cinder Bay');
  answerWith(() => ({
    status: 422,
    body: { detail: 'No.', errors: [{ field: 'source.url', detail: 'No such host.' }] },
  }));
  await user.click(screen.getByRole('button', { name: 'Ask it' }));
  const address = field('Address, with {place} where an input stands');
  await waitFor(() => expect(toldOf(address)).toBe('No such host.'));

  answerWith(() => ({
    body: { answer: '{"level":12}', values: [{ name: 'level', value: '12 cm' }], problem: null },
  }));
  await user.click(screen.getByRole('button', { name: 'Ask it' }));
  const answered = await screen.findByRole('status');
  expect(within(answered).getByText('level: 12 cm')).toBeTruthy();
  expect(within(answered).getByText('{"level":12}')).toBeTruthy();
  expect(toldOf(address)).toBeUndefined();
  const { id, hasSecret, ...source } = RIVER;
  expect(hasSecret).toBe(true);
  expect(sent.at(-1)).toEqual({
    method: 'POST',
    path: '/api/sources/try',
    body: { source, secret: '', id, inputs: { place: 'Cinder Bay' } },
  });
});
