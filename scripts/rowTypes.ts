import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import ts from 'typescript';
import { z } from 'zod';
import type { Answered } from './house/answered.ts';
import { ROOT } from './house/bringUp.ts';
import { lengthOf, matcherOf, statementOf, type Piece } from './house/statements.ts';

/*
 * Holds the types that the stores give to the rows of their statements beside what the database answered while the server tests ran:
 * a type that names a column the statement does not give, a kind of value it is not, or leaves out that it may be null, is told.
 */

/** The functions that read rows, and at which place the statement stands. */
const READERS = new Set(['rows', 'rowsForAll']);

interface Place {
  /** `file:line`. */
  at: string;
  pieces: Piece[];
  matches: (sql: string) => boolean;
  /** Whether enough of it is known without running it to tell it from others. */
  known: boolean;
  row: ts.Type;
  node: ts.Node;
}

/** How many characters of a statement must be known. */
const LEAST_KNOWN = 20;

/** What part of the statements must have been answered. */
const LEAST_ANSWERED = 0.9;

const answeredSchema: z.ZodType<Answered[]> = z.array(
  z.object({
    sql: z.string(),
    rows: z.number(),
    columns: z.record(z.string(), z.object({ kinds: z.array(z.string()), mayBeNull: z.boolean() })),
  }),
);

function programOf(): ts.Program {
  const file = join(ROOT, 'tsconfig.json');
  const { config } = ts.readConfigFile(file, (path) => ts.sys.readFile(path)) as { config: unknown };
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, ROOT);
  const folder = join(ROOT, 'src', 'server');
  const names = readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.ts'))
    .map((name) => join(folder, name));
  return ts.createProgram(names, { ...options, noEmit: true });
}

/** The type of one row, of a call that gives a promise of many. */
function rowOf(checker: ts.TypeChecker, call: ts.CallExpression): ts.Type | undefined {
  const signature = checker.getResolvedSignature(call);
  const list = signature && checker.getAwaitedType(checker.getReturnTypeOfSignature(signature));
  return list && checker.getTypeArguments(list as ts.TypeReference)[0];
}

function placesOf(program: ts.Program): Place[] {
  const checker = program.getTypeChecker();
  const found: Place[] = [];
  for (const file of program.getSourceFiles()) {
    if (file.isDeclarationFile || !file.fileName.includes('/src/server/')) continue;
    const visit = (node: ts.Node): void => {
      if (
        ts.isCallExpression(node) &&
        ts.isIdentifier(node.expression) &&
        READERS.has(node.expression.text)
      ) {
        const [, sql] = node.arguments;
        const row = rowOf(checker, node);
        if (sql && row) {
          const pieces = statementOf(checker, sql);
          const { line } = file.getLineAndCharacterOfPosition(node.getStart());
          const at = `${relative(ROOT, file.fileName)}:${line + 1}`;
          found.push({
            at,
            pieces,
            known: lengthOf(pieces) >= LEAST_KNOWN,
            matches: matcherOf(pieces),
            row,
            node,
          });
        }
      }
      ts.forEachChild(node, visit);
    };
    visit(file);
  }
  return found;
}

/** Of which kinds the values of a type are; null where it says nothing of them. */
function kindsOf(type: ts.Type): Set<string> | null {
  if (type.flags & (ts.TypeFlags.Any | ts.TypeFlags.Unknown | ts.TypeFlags.TypeParameter)) return null;
  if (type.isUnion()) {
    const all = type.types.map(kindsOf);
    return all.includes(null) ? null : new Set(all.flatMap((kinds) => [...(kinds ?? [])]));
  }
  if (type.flags & (ts.TypeFlags.Null | ts.TypeFlags.Undefined)) return new Set(['null']);
  if (type.flags & ts.TypeFlags.NumberLike) return new Set(['number']);
  if (type.flags & ts.TypeFlags.StringLike) return new Set(['string']);
  if (type.flags & ts.TypeFlags.BooleanLike) return new Set(['boolean']);
  if (type.flags & ts.TypeFlags.BigIntLike) return new Set(['bigint']);
  const name = type.getSymbol()?.name;
  return new Set([name === 'Date' || name === 'Buffer' ? name : 'object']);
}

/** Columns that are calculated by the table, and so may be null as far as the database knows, and never are. */
const NEVER_NULL = new Set(['shown_name', 'sorted']);

/** Whether a column of a statement may be null: its table lets it be, and the statement does not leave such rows out. */
function mayBeNull({ sql, columns }: Answered, name: string): boolean {
  if (columns[name]?.mayBeNull !== true) return false;
  const [, column = name] = new RegExp(`(\\w+) AS \`?${name}\\b`).exec(sql) ?? [];
  return !NEVER_NULL.has(column) && !new RegExp(`\\b${column}\`? (IS NOT NULL|IN \\(|=|>|<|LIKE)`).test(sql);
}

function wrongOf(checker: ts.TypeChecker, place: Place, answer: Answered): string[] {
  const properties = checker.getPropertiesOfType(checker.getNonNullableType(place.row));
  return properties.flatMap((property) => {
    const column = answer.columns[property.name];
    const type = checker.getTypeOfSymbolAtLocation(property, place.node);
    const kinds = kindsOf(type);
    if (!column)
      return property.flags & ts.SymbolFlags.Optional ? [] : [`${property.name} is not among its columns`];
    if (kinds === null) return [];
    const given = new Set([...column.kinds, ...(mayBeNull(answer, property.name) ? ['null'] : [])]);
    const unsaid = [...given].filter((kind) => !kinds.has(kind));
    return unsaid.length === 0
      ? []
      : [`${property.name} may be ${unsaid.join(' or ')}, its type says ${checker.typeToString(type)}`];
  });
}

const [folder = ''] = process.argv.slice(2).filter((word) => !word.startsWith('--'));
const names = existsSync(folder) ? readdirSync(folder).filter((name) => name.endsWith('.json')) : [];
const answers = names.flatMap((name) =>
  answeredSchema.parse(JSON.parse(readFileSync(join(folder, name), 'utf8'))),
);
const program = programOf();
const checker = program.getTypeChecker();
const places = placesOf(program);
const answered = new Set<Place>();
const wrong = new Set<string>();
for (const answer of answers) {
  const fitting = places.filter((place) => place.known && place.matches(answer.sql));
  // Of several that fit, the one of which most is known is meant.
  const most = Math.max(...fitting.map(({ pieces }) => lengthOf(pieces)));
  for (const place of fitting.filter(({ pieces }) => lengthOf(pieces) === most)) {
    answered.add(place);
    for (const line of wrongOf(checker, place, answer)) wrong.add(`${place.at}: ${line}`);
  }
}
console.log(`${answered.size} of ${places.length} statements that read rows were answered in the tests.`);
// With `--unseen` it names those it can say nothing of.
if (process.argv.includes('--unseen'))
  for (const place of places) if (!answered.has(place)) console.log(`  not answered: ${place.at}`);
for (const line of [...wrong].sort()) console.error(line);
if (answered.size < places.length * LEAST_ANSWERED)
  console.error(
    'These are too few to say that the types hold. Run all server tests, with ANSWERS_TO naming the folder.',
  );
if (wrong.size > 0 || answered.size < places.length * LEAST_ANSWERED) process.exitCode = 1;
