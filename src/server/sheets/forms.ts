import { z } from 'zod';
import { MAX_CELL } from '../../core/sheets/cell.ts';
import { calculator } from '../../core/sheets/formula.ts';
import type { Cells, SheetColumn } from '../../core/sheets/sheet.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { readCells } from './cells.ts';
import { insertRecords, lockSheet, sheetByFormKey } from './store.ts';

export const sentFormSchema = z.object({
  cells: z.record(z.string().regex(/^c\d{1,4}$/), z.string().max(MAX_CELL * 2)),
  /** A field that nobody sees: whoever fills it in is a machine. */
  website: z.string().max(500).default(''),
  /** A key for one intent: sent twice, the form is one record. */
  intent: z.string().regex(/^[A-Za-z0-9]{16,64}$/, 'Reload the page and send it again'),
});

/** A form as whoever fills it in sees it. */
export interface OpenForm {
  name: string;
  intro: string;
  thanks: string;
  /** Whether only those who are signed in may send it. */
  signedIn: boolean;
  fields: { column: SheetColumn; help: string; required: boolean }[];
}

/** The form at an address; a 404 problem where there is none. */
export async function openForm(db: Database, key: string): Promise<OpenForm> {
  const sheet = /^[A-Za-z0-9_-]{22}$/.test(key) ? await sheetByFormKey(db, key) : undefined;
  if (!sheet?.form) throw notFound('form');
  const { intro, thanks, open, fields } = sheet.form;
  return {
    name: sheet.name,
    intro,
    thanks,
    signedIn: !open,
    fields: fields.flatMap(({ column: id, help, required }) => {
      const column = sheet.columns.find((each) => each.id === id);
      return column ? [{ column, help, required }] : [];
    }),
  };
}

/** What of a form is kept: only what it asks for, each as its column is read; a 422 problem by field otherwise. */
function requireFilled(form: OpenForm, written: Cells): Cells {
  const columns = form.fields.map((field) => field.column);
  const { cells, problems } = readCells(columns, written);
  for (const { column, required } of form.fields)
    if (required && cells[column.id] === undefined && !problems.some((each) => each.field === column.id))
      problems.push({ field: column.id, detail: `${column.name} is needed.` });
  if (problems.length > 0)
    throw new Problem(422, problems[0]?.detail ?? 'It is not filled in yet.', { errors: problems });
  if (Object.keys(cells).length === 0) throw new Problem(422, 'Nothing is filled in yet.');
  return cells;
}

/**
 * Sends in a form: a record with who and when, once for each intent.
 *
 * @throws 401 where only those who are signed in may, 422 by field, 429 where too many came from one place
 */
export async function sendForm(
  db: Database,
  attempts: AttemptLimit,
  sent: { key: string; by: number | null; from: string; input: z.infer<typeof sentFormSchema> },
): Promise<{ thanks: string }> {
  const form = await openForm(db, sent.key);
  if (form.signedIn && sent.by === null)
    throw new Problem(401, 'Only those who are signed in send this form. Sign in, then fill it in.');
  const thanks = { thanks: form.thanks || 'Thank you. It has arrived.' };
  const cells = requireFilled(form, sent.input.cells);
  if (sent.by === null) await attempts.form(sent.from);
  // A machine is thanked as well, and nothing is kept of it.
  if (sent.input.website !== '') return thanks;
  await transact(db, async (trx) => {
    const found = await sheetByFormKey(trx, sent.key);
    const sheet = found && (await lockSheet(trx, found.id));
    if (!sheet) throw notFound('form');
    const [id] = await insertRecords(
      trx,
      sheet.id,
      [calculator(sheet.columns)(cells)],
      sent.by,
      true,
      sent.input.intent,
    );
    if (id !== undefined) await emit(trx, 'records.changed', { sheet: sheet.id, records: [id], form: true });
  });
  return thanks;
}
