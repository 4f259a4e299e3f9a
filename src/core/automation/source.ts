import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import { CELL_KINDS } from '../sheets/cell.ts';

/** A JSON pointer (RFC 6901) into what comes from outside; empty for all of it. */
export const pointerSchema = z
  .string()
  .max(200)
  .regex(/^(\/([^~/]|~[01])*)*$/, 'A pointer is written such as /river/level');

/** A value taken out of JSON from outside, by its pointer, under a name. */
export const namedValueSchema = z.object({
  name: z
    .string()
    .trim()
    .toLowerCase()
    .regex(/^[a-z0-9 ]{1,40}$/, 'A name has letters, digits and spaces, at most 40'),
  pointer: pointerSchema,
  kind: z.enum(CELL_KINDS),
  unit: z.string().trim().max(12, 'A unit has at most 12 characters'),
});
export type NamedValue = z.infer<typeof namedValueSchema>;

/** Refuses values of which two have one name. */
export function refuseDoubleNames(
  fields: readonly { name: string }[],
  context: { addIssue: (issue: { code: 'custom'; path: (string | number)[]; message: string }) => void },
): void {
  fields.forEach((field, at) => {
    if (fields.findIndex((each) => each.name === field.name) < at)
      context.addIssue({
        code: 'custom',
        path: ['fields', at, 'name'],
        message: `Two values are called “${field.name}”. Rename one.`,
      });
  });
}

/**
 * An outside source that answers a question with JSON (RFC 8259): its address, in which `{place}` stands for an input, and
 * which values of the answer are used, each named by a JSON pointer (RFC 6901).
 */
export const sourceSchema = z
  .object({
    name: z
      .string()
      .trim()
      .max(80, 'A name has at most 80 characters')
      .refine((name) => !isBlank(name), 'Give it a name'),
    url: z
      .string()
      .trim()
      .max(500, 'An address has at most 500 characters')
      .regex(/^https?:\/\//, 'An address begins with https:// or http://')
      // What a record holds must not say which host is asked, and with which secret.
      .refine(
        (url) => URL.canParse(url) && !/^https?:\/\/[^/?#]*[{}@]/.test(url),
        'An address names its host outright, and inputs stand after it, such as https://host.example/at?place={place}',
      ),
    /** The name of a header that a secret is sent in; empty for none. */
    header: z
      .string()
      .trim()
      .max(60)
      .regex(/^[A-Za-z0-9-]*$/, 'The name of a header has letters, digits and hyphens'),
    fields: z
      .array(namedValueSchema)
      .min(1, 'Name at least one value of the answer')
      .max(20, 'At most 20 values'),
    /** How long an answer is kept and not asked again, in minutes. */
    keepMinutes: z
      .int('Write a whole number of minutes; 0 asks each time')
      .min(0, 'Write a whole number of minutes; 0 asks each time')
      .max(1440, 'At most a day'),
  })
  .superRefine(({ fields }, context) => refuseDoubleNames(fields, context));
export type Source = z.infer<typeof sourceSchema>;

const secretSchema = z.string().max(500, 'A secret has at most 500 characters');
const inputsSchema = z.record(z.string().max(40), z.string().max(200, 'An input has at most 200 characters'));

/** A source to be kept, with its secret; an empty one leaves what is kept. */
export const sourceInputSchema = z.object({ source: sourceSchema, secret: secretSchema });

/** A source to be asked at once: nothing of it is kept. */
export const sourceTrialSchema = z.object({
  source: sourceSchema,
  secret: secretSchema,
  /** The source whose secret is used where none is given. */
  id: z.int().positive().nullable(),
  inputs: inputsSchema,
});

/** What is filled in of a source: what is kept of it, and the inputs it is asked with meanwhile. */
export const sourceFormSchema = sourceInputSchema.extend({ inputs: inputsSchema });
export type SourceForm = z.infer<typeof sourceFormSchema>;

/** What a source answered, what of it would be used, and why it cannot be, if so. */
export interface SourceAnswer {
  answer: string;
  values: { name: string; value: string }[];
  problem: string | null;
}

/** The inputs an address asks for, in order: `{place}` is `place`. */
export const inputsOf = (url: string): string[] => [
  ...new Set([...url.matchAll(/\{([a-z0-9 ]{1,40})\}/g)].map(([, name = '']) => name)),
];

/** The address with its inputs filled in, each encoded as a part of an address. */
export const addressOf = (url: string, inputs: ReadonlyMap<string, string>): string =>
  url.replace(/\{([a-z0-9 ]{1,40})\}/g, (_, name: string) => encodeURIComponent(inputs.get(name) ?? ''));
