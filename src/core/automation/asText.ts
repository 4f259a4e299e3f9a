import { isReaderField } from '../content/field.ts';
import type { FillField } from '../content/html.ts';
import { sectionsText } from '../content/text.ts';
import { count } from '../words.ts';
import type { Automation } from './automation.ts';
import { CALL_WORDS, isCall } from './calls.ts';
import type { Fields } from './condition.ts';
import { automationSentence, type AutomationNames } from './words.ts';

/**
 * All of an automation as plain text, so that two versions of it can be held against each other: its name, its sentence with a
 * phrase a line, what it says with its fields in braces, its table, and its limits.
 */
export function automationAsText(automation: Automation, fields: Fields, names: AutomationNames): string {
  const { name, content, table, ceiling, lapseMinutes, from, until } = automation;
  const label = (field: string): string =>
    isCall(field)
      ? CALL_WORDS[field]
      : (fields.get(field)?.label ?? (isReaderField(field) ? field : 'a field that is gone'));
  const field: FillField = (of, fallback) => `{${label(of)}${fallback === '' ? '' : `|${fallback}`}}`;
  return [
    name,
    automationSentence(automation, fields, names)
      .map(({ lead, words }) => [lead, words].filter(Boolean).join(' '))
      .join('\n'),
    content.title,
    content.byline,
    sectionsText(content.sections, field),
    content.button ? `${content.button.label}: ${content.button.url}` : '',
    table
      ? `${table.as === 'list' ? 'A list' : 'A table'} of ${table.columns.map(label).join(', ')}${
          table.order ? `, by ${label(table.order.field)}${table.order.descending ? ' backwards' : ''}` : ''
        }, at most ${count(table.most, 'row', 'rows')}`
      : '',
    [
      `At most ${ceiling.toLocaleString('en-GB')} an hour`,
      lapseMinutes === null
        ? 'said however late'
        : `not said any more after ${count(lapseMinutes, 'minute', 'minutes')}`,
      ...(from === null ? [] : [`from ${from}`]),
      ...(until === null ? [] : [`until ${until}`]),
    ].join(', '),
  ]
    .filter((part) => part.trim() !== '')
    .join('\n\n');
}
