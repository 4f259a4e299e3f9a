import { z } from 'zod';

type Json = Record<string, unknown>;

const MOST_DEPTH = 5;

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null;

const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);

/** @param defs the shapes that are named in it: each is written out where it is met first, and within itself named as the same again */
function text(schema: unknown, indent: string, depth: number, defs: Json): string {
  if (!isObject(schema)) return 'anything';
  if (typeof schema.$ref === 'string') {
    const { [schema.$ref.replace('#/$defs/', '')]: meant, ...others } = defs;
    return meant === undefined ? 'the same again' : text(meant, indent, depth, others);
  }
  if ('const' in schema) return JSON.stringify(schema.const);
  if (Array.isArray(schema.enum)) return schema.enum.map((each) => JSON.stringify(each)).join(' | ');
  const either = listOf(schema.anyOf ?? schema.oneOf);
  if (either.length > 0)
    return depth > MOST_DEPTH
      ? 'one of several shapes'
      : either
          .map((each) => text(each, indent, depth + 1, defs))
          .join(either.length > 3 ? `\n${indent}| ` : ' | ');
  if (schema.type === 'array') return `[${text(schema.items, indent, depth + 1, defs)}, …]`;
  if (schema.type !== 'object') return typeof schema.type === 'string' ? schema.type : 'anything';
  const required = new Set(listOf(schema.required));
  const parts = Object.entries(isObject(schema.properties) ? schema.properties : {});
  if (parts.length === 0) return '{ … }';
  if (depth > MOST_DEPTH) return '{ … }';
  const further = `${indent}  `;
  const lines = parts.map(
    ([name, part]) =>
      `${further}${name}${required.has(name) ? '' : '?'}: ${text(part, further, depth + 1, defs)}`,
  );
  return `{\n${lines.join('\n')}\n${indent}}`;
}

/** The shape of a schema as it is read: names, kinds, what may be left out. */
export function shapeText(schema: z.ZodType, io: 'input' | 'output'): string {
  const made = z.toJSONSchema(schema, { io, unrepresentable: 'any', reused: 'inline' }) as Json;
  return text(made, '', 0, isObject(made.$defs) ? made.$defs : {});
}
