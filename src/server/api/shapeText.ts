import { z } from 'zod';

type Json = Record<string, unknown>;

const MOST_DEPTH = 5;

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null;

const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);

function text(schema: unknown, indent: string, depth: number): string {
  if (!isObject(schema)) return 'anything';
  if ('const' in schema) return JSON.stringify(schema.const);
  if (Array.isArray(schema.enum)) return schema.enum.map((each) => JSON.stringify(each)).join(' | ');
  const either = listOf(schema.anyOf ?? schema.oneOf);
  if (either.length > 0)
    return depth > MOST_DEPTH
      ? 'one of several shapes'
      : either.map((each) => text(each, indent, depth + 1)).join(either.length > 3 ? `\n${indent}| ` : ' | ');
  if (schema.type === 'array') return `[${text(schema.items, indent, depth + 1)}, …]`;
  if (schema.type !== 'object')
    return typeof schema.$ref === 'string'
      ? 'the same again'
      : typeof schema.type === 'string'
        ? schema.type
        : 'anything';
  const required = new Set(listOf(schema.required));
  const parts = Object.entries(isObject(schema.properties) ? schema.properties : {});
  if (parts.length === 0) return '{ … }';
  if (depth > MOST_DEPTH) return '{ … }';
  const further = `${indent}  `;
  const lines = parts.map(
    ([name, part]) => `${further}${name}${required.has(name) ? '' : '?'}: ${text(part, further, depth + 1)}`,
  );
  return `{\n${lines.join('\n')}\n${indent}}`;
}

/** The shape of a schema as it is read: names, kinds, what may be left out. */
export const shapeText = (schema: z.ZodType, io: 'input' | 'output'): string =>
  text(z.toJSONSchema(schema, { io, unrepresentable: 'any', reused: 'inline' }), '', 0);
