import { z } from 'zod';
import { list } from './words.ts';

const KINDS: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'yes or no (true or false)',
  array: 'a list',
  object: 'an object of fields',
  record: 'an object of fields',
  date: 'a date',
  null: 'nothing (null)',
};
const FORMATS: Record<string, string> = {
  email: 'a mail address such as name@example.org',
  url: 'an address such as https://example.org',
  date: 'a date such as 2026-12-24',
  regex: 'in the form that this field has',
};

const valueWords = (value: unknown): string => (typeof value === 'string' ? `“${value}”` : String(value));
const limit = (n: unknown): string => (typeof n === 'number' ? n.toLocaleString('en-GB') : String(n));

/**
 * What is said of input that does not fit its schema where the schema itself says nothing: in our own words, with the
 * remedy. It holds for every schema once this file is imported.
 */
function words(issue: z.core.$ZodRawIssue): string | undefined {
  switch (issue.code) {
    case 'invalid_type':
      return issue.input === undefined
        ? `This is missing. Give ${KINDS[issue.expected] ?? issue.expected}.`
        : `This must be ${KINDS[issue.expected] ?? issue.expected}.`;
    case 'too_big':
      if (issue.origin === 'string') return `At most ${limit(issue.maximum)} characters fit. Shorten it.`;
      if (issue.origin === 'array' || issue.origin === 'set')
        return `At most ${limit(issue.maximum)} of these fit. Take some out.`;
      return `This is at most ${limit(issue.maximum)}.`;
    case 'too_small':
      if (issue.origin === 'string')
        return issue.minimum === 1
          ? 'This is empty. Fill it in.'
          : `At least ${limit(issue.minimum)} characters are needed.`;
      if (issue.origin === 'array' || issue.origin === 'set')
        return issue.minimum === 1
          ? 'At least one is needed.'
          : `At least ${limit(issue.minimum)} are needed.`;
      return issue.minimum === 0 && issue.inclusive === false
        ? 'This is more than nothing: a number from 1 on.'
        : `This is at least ${limit(issue.minimum)}.`;
    case 'invalid_format':
      return `This must be ${FORMATS[issue.format] ?? FORMATS.regex ?? ''}.`;
    case 'not_multiple_of':
      return 'This must be a whole number.';
    case 'invalid_value':
      return issue.values.length <= 12
        ? `This must be ${list(issue.values.map(valueWords), 'or')}.`
        : 'This is none of the choices there are.';
    case 'invalid_union':
    case 'invalid_element':
    case 'invalid_key':
      return 'This is none of the kinds that can stand here.';
    case 'unrecognized_keys':
      return `There is no field ${list(issue.keys.map(valueWords), 'or')}.`;
    default:
      return undefined;
  }
}

z.config({ customError: words });
