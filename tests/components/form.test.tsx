import { render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { request } from '../../src/ui/api.ts';
import { bySchema } from '../../src/ui/form/bySchema.ts';
import { FormProblem, idOrNone, SelectField, TextField } from '../../src/ui/form/fields.tsx';
import { useServerForm } from '../../src/ui/form/useServerForm.ts';
import { answerWith, sent } from './page.ts';

const schema = z.object({
  name: z.string().trim().min(1, 'Write the name'),
  mail: z.string(),
  role: z.enum(['coordinator', 'editor', 'member']),
  stationId: z.int().nullable(),
});

function Form() {
  const form = useServerForm<z.input<typeof schema>>({
    values: { name: '', mail: '', role: 'member', stationId: null },
    resolver: bySchema(schema),
    send: (given) => request('POST', '/api/people', given),
  });
  return (
    <form onSubmit={(event) => void form.submit(event)}>
      <TextField form={form} name="name" label="Name" />
      <TextField form={form} name="mail" label="Mail" />
      <SelectField form={form} name="stationId" label="Station" read={idOrNone}>
        <option value="">none</option>
        <option value="7">North</option>
      </SelectField>
      <FormProblem form={form} />
      <button disabled={form.formState.isSubmitting}>Send</button>
    </form>
  );
}

const refuse = (status: number, errors: { field: string; detail: string }[], detail = 'No.') =>
  answerWith(() => ({ status, body: { detail, errors } }));
const leaving = (): boolean => {
  const event = new Event('beforeunload', { cancelable: true });
  dispatchEvent(event);
  return !event.defaultPrevented;
};

describe('a form', () => {
  it('sends nothing that its schema refuses, and says so at the field', async () => {
    const user = userEvent.setup();
    render(<Form />);
    await user.type(screen.getByLabelText('Name'), '   ');
    await user.click(screen.getByRole('button'));
    const name = screen.getByLabelText('Name');
    await waitFor(() => expect(name.getAttribute('aria-invalid')).toBe('true'));
    expect(document.getElementById(name.getAttribute('aria-describedby')!)!.textContent).toBe(
      'Write the name',
    );
    expect(document.activeElement).toBe(name);
    expect(sent).toEqual([]);
  });

  it('puts what the endpoint refuses at its field, keeps what was written, and sends it again', async () => {
    const user = userEvent.setup();
    refuse(422, [{ field: 'mail', detail: 'Somebody has it.' }]);
    render(<Form />);
    await user.type(screen.getByLabelText('Name'), 'Ada');
    await user.type(screen.getByLabelText('Mail'), 'ada@test.example');
    await user.selectOptions(screen.getByLabelText('Station'), 'North');
    await user.click(screen.getByRole('button'));
    await screen.findByText('Somebody has it.');
    expect(document.activeElement).toBe(screen.getByLabelText('Mail'));
    expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('Ada');
    answerWith(() => ({ body: { id: 1 } }));
    await user.type(screen.getByLabelText('Mail'), 's');
    await user.click(screen.getByRole('button'));
    await waitFor(() => expect(sent).toHaveLength(2));
    expect(sent[1]).toEqual({
      method: 'POST',
      path: '/api/people',
      body: { name: 'Ada', mail: 'ada@test.examples', role: 'member', stationId: 7 },
    });
    await waitFor(() => expect(screen.queryByText('Somebody has it.')).toBeNull());
  });

  it('says of itself what belongs to no field of it, and that there is no connection', async () => {
    const user = userEvent.setup();
    refuse(409, [{ field: 'elsewhere', detail: 'Somebody was quicker.' }]);
    render(<Form />);
    await user.type(screen.getByLabelText('Name'), 'Ada');
    await user.click(screen.getByRole('button'));
    await screen.findByText('Somebody was quicker.');
    answerWith(() => {
      throw new TypeError('down');
    });
    await user.click(screen.getByRole('button'));
    await screen.findByText(/cannot be reached just now/);
  });

  it('sends once however often it is pressed while it is under way', async () => {
    const user = userEvent.setup();
    let release = (): void => undefined;
    answerWith(() => new Promise((resolve) => (release = () => resolve({ body: { id: 1 } }))));
    render(<Form />);
    await user.type(screen.getByLabelText('Name'), 'Ada');
    await user.dblClick(screen.getByRole('button'));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(screen.getByRole<HTMLButtonElement>('button').disabled).toBe(true);
    release();
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>('button').disabled).toBe(false));
    expect(sent).toHaveLength(1);
  });

  it('asks before what was written is left behind, and not once it is sent', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ body: { id: 1 } }));
    render(<Form />);
    expect(leaving()).toBe(true);
    await user.type(screen.getByLabelText('Name'), 'Ada');
    expect(leaving()).toBe(false);
    await user.click(screen.getByRole('button'));
    await waitFor(() => expect(leaving()).toBe(true));
  });
});
