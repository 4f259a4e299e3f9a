import { render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';
import { AddOption } from '../../src/ui/ask/poll/AddOption.tsx';
import { BringIdentities } from '../../src/views/directory/BringIdentities.tsx';
import Form from '../../src/views/sheets/Form.tsx';
import { answerWith, sent } from './page.ts';

const list = {
  headings: ['Their number', 'E-mail', 'Desk', 'rota'],
  rows: [
    ['1', 'keola@test.example', 'K1', 'keola.p'],
    ['2', 'wren@test.example', 'W2', 'wren.a'],
  ],
};
vi.mock('../../src/views/sheets/useListReader.ts', () => ({
  useListReader: () => () => ({
    read: () => Promise.resolve({ headings: list.headings, count: list.rows.length }),
    raw: (columns: readonly number[]) =>
      Promise.resolve(
        list.rows.map((row, at) => ({ line: at + 2, cells: columns.map((column) => row[column]) })),
      ),
  }),
}));

describe('a list of names brought in', () => {
  it('is looked at before it is kept, and anew as soon as something else is chosen', async () => {
    const user = userEvent.setup();
    const done = vi.fn();
    answerWith(({ body }) => ({
      body: { made: 2, there: 0, leftOut: 0, told: [], system: (body as { system: string }).system },
    }));
    render(<BringIdentities systems={['rota']} onClose={() => undefined} onDone={done} />);
    await screen.findByRole('dialog');
    await user.upload(screen.getByLabelText(/Choose a CSV/), new File(['x'], 'names.csv'));
    // What its headings tell is chosen already: who it is, what they are called, and in which system.
    await screen.findByLabelText('Who that is');
    expect(screen.getByLabelText<HTMLInputElement>('The system is called').value).toBe('rota');
    const value = screen.getByLabelText<HTMLSelectElement>('What they are called there');
    await user.selectOptions(value, 'rota');
    await user.click(screen.getByRole('button', { name: 'See what fits' }));
    const keep = await screen.findByRole('button', { name: 'Bring in 2 names' });
    expect(sent.at(-1)?.body).toEqual({
      system: 'rota',
      keep: false,
      rows: [
        { line: 2, who: 'keola@test.example', value: 'keola.p' },
        { line: 3, who: 'wren@test.example', value: 'wren.a' },
      ],
    });
    expect(done).not.toHaveBeenCalled();
    // Something else is chosen: what was found says nothing of it.
    await user.selectOptions(value, 'Desk');
    expect(keep.textContent).toBe('See what fits');
    await user.selectOptions(value, 'rota');
    await user.click(await screen.findByRole('button', { name: 'Bring in 2 names' }));
    await waitFor(() => expect(done).toHaveBeenCalledWith(2, 'rota'));
    expect(sent.at(-1)?.body).toMatchObject({ keep: true });
  });

  it('asks for two different columns, and tells what is refused at its field', async () => {
    const user = userEvent.setup();
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'system', detail: 'No system is called that.' }] },
    }));
    render(<BringIdentities systems={[]} onClose={() => undefined} onDone={() => undefined} />);
    await screen.findByRole('dialog');
    await user.upload(screen.getByLabelText(/Choose a CSV/), new File(['x'], 'names.csv'));
    await user.selectOptions(await screen.findByLabelText('What they are called there'), 'E-mail');
    await user.type(screen.getByLabelText('The system is called'), 'phones');
    const look = screen.getByRole<HTMLButtonElement>('button', { name: 'See what fits' });
    expect(look.disabled).toBe(true);
    await user.selectOptions(screen.getByLabelText('What they are called there'), 'Desk');
    await user.click(look);
    await screen.findByText('No system is called that.');
    expect(screen.getByLabelText('The system is called').getAttribute('aria-invalid')).toBe('true');
  });
});

const column = (
  id: string,
  name: string,
  kind: SheetColumn['kind'],
  choices: string[] = [],
): SheetColumn => ({
  id,
  name,
  kind,
  unit: '',
  choices,
});

describe('a form for whoever has its address', () => {
  it('keeps what was written where it is refused, each reason at its field, and is sent once', async () => {
    const user = userEvent.setup();
    render(
      <Form
        formKey="f1"
        form={{
          name: 'Tools lent',
          intro: '',
          fields: [
            { column: column('c1', 'Tool', 'text'), help: '', required: true },
            { column: column('c2', 'How many', 'number'), help: '', required: true },
            { column: column('c3', 'Back again', 'yes or no'), help: '', required: false },
          ],
        }}
      />,
    );
    answerWith(() => ({
      status: 422,
      body: { detail: 'One is wrong.', errors: [{ field: 'c2', detail: 'How many is a number.' }] },
    }));
    await user.type(screen.getByLabelText('Tool'), 'Spade');
    await user.type(screen.getByLabelText('How many'), 'x');
    await user.click(screen.getByRole('button', { name: 'Send it' }));
    await screen.findByText('How many is a number.');
    expect(screen.getByLabelText('How many').getAttribute('aria-invalid')).toBe('true');
    expect(screen.getByLabelText('Tool').getAttribute('aria-invalid')).toBe('false');
    answerWith(() => ({ body: { thanks: 'Thank you. Bring it back on Friday.' } }));
    await user.clear(screen.getByLabelText('How many'));
    await user.type(screen.getByLabelText('How many'), '3');
    await user.click(screen.getByRole('button', { name: 'Send it' }));
    await screen.findByText('Thank you. Bring it back on Friday.');
    const [refused, taken] = sent.map(({ body }) => body as { cells: object; intent: string });
    expect(taken?.cells).toEqual({ c1: 'Spade', c2: '3', c3: '' });
    expect(taken?.intent).toBe(refused?.intent);
    // Once more is another one, and empty.
    await user.click(screen.getByRole('button', { name: 'Fill it in once more' }));
    expect(screen.getByLabelText<HTMLInputElement>('Tool').value).toBe('');
    await user.type(screen.getByLabelText('Tool'), 'Rake');
    await user.click(screen.getByRole('button', { name: 'Send it' }));
    await waitFor(() => expect(sent).toHaveLength(3));
    expect((sent[2]?.body as { intent: string }).intent).not.toBe(taken?.intent);
  });
});

describe('another option of a poll', () => {
  it('tells what is wrong with it at its field, and is empty again once it is there', async () => {
    const user = userEvent.setup();
    const added = vi.fn();
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'label', detail: 'There is such an option.' }] },
    }));
    render(<AddOption id={4} dates={false} zone="Europe/London" onAdded={added} />);
    await user.type(screen.getByLabelText('Another option'), 'Tea');
    await user.click(screen.getByRole('button', { name: 'Add it' }));
    await screen.findByText('There is such an option.');
    expect(added).not.toHaveBeenCalled();
    answerWith(() => ({ body: { id: 9 } }));
    await user.type(screen.getByLabelText('Another option'), ' and cake');
    await user.click(screen.getByRole('button', { name: 'Add it' }));
    await waitFor(() => expect(added).toHaveBeenCalledTimes(1));
    expect(sent.at(-1)).toEqual({
      method: 'POST',
      path: '/api/asks/4/options',
      body: { label: 'Tea and cake', at: null },
    });
    expect(screen.getByLabelText<HTMLInputElement>('Another option').value).toBe('');
  });
});
