import { CloudEvent, HTTP, ValidationError } from 'cloudevents';
import { get } from 'jsonpointer';
import { hookMessageSchema, type HookIn, type HookMessage } from '../../core/gateways/hookIn.ts';
import { MAX_TITLE } from '../../core/content/announcement.ts';
import { readCell } from '../../core/sheets/cell.ts';
import { requireOrdinary } from '../http/body.ts';
import { Problem } from '../problem.ts';

/** What a call says: its data, and what sets it apart; empty where nothing does. */
export interface ReadCall {
  id: string;
  data: unknown;
}

function parsed(body: Buffer): unknown {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(body);
  } catch {
    throw new Problem(400, 'The body is not UTF-8.');
  }
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Problem(400, 'The body is not JSON.');
  }
}

/**
 * Reads what was posted: JSON, or a CloudEvent 1.0 in binary or structured mode, whose data is then what is read. The id of a
 * signed call (`webhook-id`), of the event (with its source), or in the message sets it apart.
 *
 * @throws 400 where it is no JSON or no CloudEvent, 415 where it is of another kind, 422 where it is nested too deep
 */
export function readCall(headers: Headers, body: Buffer): ReadCall {
  const type = headers.get('content-type') ?? '';
  const isEvent = type.startsWith('application/cloudevents') || headers.get('ce-specversion') !== null;
  if (!isEvent && !/^application\/([a-z0-9.+-]+\+)?json/i.test(type))
    throw new Problem(415, 'Send JSON, with the content type application/json, or a CloudEvent.');
  if (type.startsWith('application/cloudevents-batch'))
    throw new Problem(415, 'Send each CloudEvent by itself, not a batch of them.');
  const value = parsed(body);
  requireOrdinary(value);
  const signedId = headers.get('webhook-id') ?? '';
  if (isEvent) {
    try {
      const event = HTTP.toEvent({ headers: Object.fromEntries(headers), body: value });
      if (!(event instanceof CloudEvent))
        throw new Problem(415, 'Send each CloudEvent by itself, not a batch of them.');
      event.validate();
      return { id: `${event.source} ${event.id}`, data: event.data };
    } catch (error) {
      if (error instanceof ValidationError || error instanceof TypeError)
        throw new Problem(400, `It is no CloudEvent of version 1.0: ${error.message.split('\n')[0] ?? ''}.`);
      throw error;
    }
  }
  const own = typeof value === 'object' && value !== null && 'id' in value ? value.id : undefined;
  return { id: typeof own === 'string' && own !== '' ? own : signedId, data: value };
}

function at(data: unknown, pointer: string): string {
  let found: unknown;
  try {
    found =
      pointer === '' ? data : typeof data === 'object' && data !== null ? get(data, pointer) : undefined;
  } catch {
    found = undefined;
  }
  if (typeof found === 'string') return found;
  return typeof found === 'number' || typeof found === 'boolean' ? String(found) : '';
}

/**
 * The message in what was posted: taken out by the way in's pointers, or in Clear Bell's own shape.
 *
 * @throws 422 with what is wrong by field
 */
export function messageOf({ mapping, fields }: HookIn, data: unknown): HookMessage {
  if (mapping === null) return hookMessageSchema.parse(data);
  const title = at(data, mapping.title);
  if (title.trim() === '')
    throw new Problem(422, `There is no text at ${mapping.title || 'the pointer of the title'}.`, {
      errors: [{ field: `data${mapping.title}`, detail: 'The title is taken from here, and it is empty.' }],
    });
  const shown = fields
    .map(({ name, pointer }) => ({ label: name, value: at(data, pointer).slice(0, 500) }))
    .filter(({ value }) => value !== '');
  return hookMessageSchema.parse({
    title: title.trim().slice(0, MAX_TITLE),
    text: at(data, mapping.text),
    fields: shown,
  });
}

/**
 * The named values of what was posted, as cells.
 *
 * @throws 422 where one is not of its kind
 */
export function callValues({ fields }: Pick<HookIn, 'fields'>, data: unknown): Record<string, string> {
  const values: Record<string, string> = {};
  const errors: { field: string; detail: string }[] = [];
  for (const { name, pointer, kind, unit } of fields) {
    const read = readCell({ kind, unit, choices: [] }, at(data, pointer));
    if ('problem' in read) errors.push({ field: `data${pointer}`, detail: `${name}: ${read.problem}` });
    else if (read.value !== '') values[name] = read.value;
  }
  if (errors.length > 0)
    throw new Problem(422, errors[0]?.detail ?? 'A value is not of its kind.', { errors });
  return values;
}
