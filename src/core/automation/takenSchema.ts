import { z } from 'zod';
import { automationSchema, type Automation } from './automation.ts';
import { TAKEN_FORMAT, TAKEN_VERSION } from './taken.ts';

const takenSchema = z.object({
  format: z.literal(TAKEN_FORMAT, 'It is no automation that was taken out of Clear Bell'),
  version: z.literal(
    TAKEN_VERSION,
    'It was taken out of another version of Clear Bell than this one can read',
  ),
  automation: automationSchema,
});

/** Reads an automation that was taken out; gives it, or what is wrong with it in words. */
export function readTaken(text: string): { automation: Automation } | { problem: string } {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { problem: 'The file is not JSON.' };
  }
  const read = takenSchema.safeParse(value);
  if (read.success) return { automation: read.data.automation };
  const [issue] = read.error.issues;
  return {
    problem: issue ? `${issue.path.join('.') || 'The file'}: ${issue.message}.` : 'It cannot be read.',
  };
}
