import ts from 'typescript';
import { withShortLists } from './answered.ts';

/** A piece of a statement: text, one of several pieces after each other, or null for what only the running code knows. */
export type Piece = string | { oneOf: Piece[][] } | null;

type Known = ReadonlyMap<ts.Symbol, Piece[]>;

const ANYTHING: Piece[] = [null];

/** What a function gives whose body is one expression, or one `return`. */
function givenBy(
  declaration: ts.Node | undefined,
): { gives: ts.Expression; names: ts.NodeArray<ts.ParameterDeclaration> } | null {
  const callable =
    declaration && ts.isVariableDeclaration(declaration) && declaration.initializer
      ? declaration.initializer
      : declaration;
  if (!callable || !(ts.isArrowFunction(callable) || ts.isFunctionDeclaration(callable))) return null;
  const body = callable.body;
  if (!body) return null;
  if (!ts.isBlock(body)) return { gives: body, names: callable.parameters };
  const [only] = body.statements;
  return body.statements.length === 1 && only && ts.isReturnStatement(only) && only.expression
    ? { gives: only.expression, names: callable.parameters }
    : null;
}

/** What each of a list is made into by `map`. */
function eachOf(list: ts.Expression): ts.Expression | undefined {
  if (!ts.isCallExpression(list) || !ts.isPropertyAccessExpression(list.expression)) return undefined;
  return list.expression.name.text === 'map' ? givenBy(list.arguments[0])?.gives : undefined;
}

function symbolOf(checker: ts.TypeChecker, node: ts.Node): ts.Symbol | undefined {
  const symbol = checker.getSymbolAtLocation(node);
  return symbol && symbol.flags & ts.SymbolFlags.Alias ? checker.getAliasedSymbol(symbol) : symbol;
}

/** The text of a type that is one of a few texts. */
function ofType(checker: ts.TypeChecker, node: ts.Expression): Piece[] {
  const type = checker.getTypeAtLocation(node);
  if (type.isStringLiteral()) return [type.value];
  if (type.isUnion() && type.types.every((one) => one.isStringLiteral()))
    return [{ oneOf: type.types.map((one) => [one.value]) }];
  return ANYTHING;
}

/** The pieces of a statement that an expression gives, as far as they are known without running it. */
export function statementOf(
  checker: ts.TypeChecker,
  node: ts.Expression,
  known: Known = new Map(),
  depth = 0,
): Piece[] {
  const inner = (expression: ts.Expression, more: Known = known): Piece[] =>
    depth > 12 ? ANYTHING : statementOf(checker, expression, more, depth + 1);
  if (ts.isStringLiteralLike(node)) return [node.text];
  if (ts.isParenthesizedExpression(node) || ts.isAsExpression(node) || ts.isNonNullExpression(node))
    return inner(node.expression);
  if (ts.isTemplateExpression(node))
    return [
      node.head.text,
      ...node.templateSpans.flatMap((span) => [...inner(span.expression), span.literal.text]),
    ];
  if (ts.isConditionalExpression(node)) return [{ oneOf: [inner(node.whenTrue), inner(node.whenFalse)] }];
  if (ts.isBinaryExpression(node) && node.operatorToken.kind === ts.SyntaxKind.PlusToken)
    return [...inner(node.left), ...inner(node.right)];
  if (ts.isIdentifier(node)) {
    const symbol = symbolOf(checker, node);
    const passed = symbol && known.get(symbol);
    if (passed) return passed;
    const declaration = symbol?.valueDeclaration;
    if (
      declaration &&
      ts.isVariableDeclaration(declaration) &&
      declaration.initializer &&
      ts.getCombinedNodeFlags(declaration) & ts.NodeFlags.Const
    )
      return inner(declaration.initializer, new Map());
    return ofType(checker, node);
  }
  if (ts.isCallExpression(node) && ts.isPropertyAccessExpression(node.expression)) {
    // A list that is written out: at least one of it, and then more of the like.
    const each = node.expression.name.text === 'join' ? eachOf(node.expression.expression) : undefined;
    return each ? [...inner(each), null] : ANYTHING;
  }
  if (ts.isCallExpression(node) && ts.isIdentifier(node.expression)) {
    const called = givenBy(symbolOf(checker, node.expression)?.valueDeclaration);
    if (!called) return ANYTHING;
    const given = new Map<ts.Symbol, Piece[]>();
    called.names.forEach((name, n) => {
      const symbol = checker.getSymbolAtLocation(name.name);
      const argument = node.arguments[n] ?? name.initializer;
      if (symbol && argument) given.set(symbol, inner(argument));
    });
    return inner(called.gives, given);
  }
  return ofType(checker, node);
}

const escaped = (text: string): string => withShortLists(text).replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

const patternOf = (pieces: readonly Piece[]): string =>
  pieces
    .map((piece) =>
      piece === null
        ? '[\\s\\S]*?'
        : typeof piece === 'string'
          ? escaped(piece)
          : `(?:${piece.oneOf.map(patternOf).join('|')})`,
    )
    .join('');

/** How much of a statement is known: of two that fit the same text, the one that says more of it is meant. */
export const lengthOf = (pieces: readonly Piece[]): number =>
  pieces.reduce<number>(
    (sum, piece) =>
      sum +
      (piece === null
        ? 0
        : typeof piece === 'string'
          ? piece.length
          : Math.min(...piece.oneOf.map((one) => lengthOf(one)))),
    0,
  );

/** Tells whether a statement as it was sent is the one of those pieces. */
export function matcherOf(pieces: readonly Piece[]): (sql: string) => boolean {
  const pattern = new RegExp(`^${patternOf(pieces)}$`);
  const [first] = pieces;
  const start = typeof first === 'string' ? first : '';
  return (sql) => sql.startsWith(start) && pattern.test(sql);
}
