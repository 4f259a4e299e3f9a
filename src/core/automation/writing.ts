import type { Block, Inline } from '../content/document.ts';
import type { FieldName, TemplateField } from '../content/field.ts';
import { plainSection } from '../content/section.ts';
import { newAutomation, type Automation, type Tell, type When } from './automation.ts';
import type { Condition } from './condition.ts';

type Part = string | [FieldName | TemplateField, string?];
const inline = (parts: readonly Part[]): Inline[] =>
  parts.map((part) =>
    typeof part === 'string'
      ? { type: 'text', text: part }
      : { type: 'field', attrs: { name: part[0], fallback: part[1] ?? '' } },
  );
/** A paragraph of words and fields: a field by its name, with what stands where it is empty. */
export const paragraph = (...parts: Part[]): Block => ({ type: 'paragraph', content: inline(parts) });
export const bullets = (...lines: Part[][]): Block => ({
  type: 'bulletList',
  content: lines.map((line) => ({ type: 'listItem', content: [paragraph(...line)] })),
});

/** That fields are filled in, all of them. */
export const filled = (...fields: string[]): Condition => ({
  kind: 'all',
  of: fields.map((field) => ({
    kind: 'test',
    field,
    test: 'is filled in',
    against: { kind: 'value', value: '' },
  })),
});
/** What an automation says, and what else of it is not as it begins. */
interface Written extends Partial<Omit<Automation, 'content'>> {
  title: string;
  blocks: Block[];
  button?: { label: string; url: string };
}

/** An automation with what is told of it; all else is as it begins. */
export function automation(name: string, when: When, written: Written): Automation {
  const { title, blocks, button, ...rest } = written;
  const begun = newAutomation(name, when);
  return {
    ...begun,
    ...rest,
    content: {
      ...begun.content,
      title,
      sections: [plainSection({ type: 'doc', content: blocks })],
      button: button ?? null,
    },
  };
}

/** Nobody is told, on no board. */
export const nobody: Tell = {
  to: null,
  boards: [],
  outside: [],
  boardField: null,
  mail: false,
  otherwise: null,
};
