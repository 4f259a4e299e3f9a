import { Marked, type Token, type Tokens } from 'marked';
import { EMPTY_DOCUMENT, type Block, type Doc, type Inline, type ListItem, type Mark } from './document.ts';
import type { FillField } from './html.ts';
import { FIELDS } from './field.ts';
import { isSafeLink } from './link.ts';

const parser = new Marked({ gfm: false });

/** How a field is written in Markdown: its name, and after a bar what stands where it is not known. */
const FIELD = /(\{\{[^{}]+\}\})/;
const FIELD_PARTS = /^\{\{([^{}|]+)(?:\|([^{}]*))?\}\}$/;

const unescaped = (text: string): string =>
  text
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&quot;', '"')
    .replaceAll('&#39;', "'")
    .replaceAll('&amp;', '&');

/** Neighbouring texts with the same marks as one: the lexer parts them at every escape. */
function joined(parts: readonly Inline[]): Inline[] {
  return parts.reduce<Inline[]>((found, part) => {
    const last = found.at(-1);
    if (
      last?.type !== 'text' ||
      part.type !== 'text' ||
      JSON.stringify(last.marks) !== JSON.stringify(part.marks)
    )
      return [...found, part];
    return [...found.slice(0, -1), { ...last, text: last.text + part.text }];
  }, []);
}

const inline = (tokens: readonly Token[] | undefined, marks: Mark[]): Inline[] =>
  joined(parted(tokens, marks));

/** What of inline HTML is read: the tags by which emphasis is written where CommonMark's own marks cannot stand. */
const TAGS: Record<string, Mark['type']> = { strong: 'bold', b: 'bold', em: 'italic', i: 'italic' };

function parted(tokens: readonly Token[] | undefined, outer: Mark[]): Inline[] {
  // Tags are tokens of their own, so the marks they open hold for what follows.
  let marks = outer;
  const text = (words: string): Inline[] =>
    words
      .split(FIELD)
      .map((part): Inline => {
        const [, name = '', fallback = ''] = FIELD_PARTS.exec(part) ?? [];
        const field = FIELDS.find((each) => each === name);
        if (field) return { type: 'field', attrs: { name: field, fallback: fallback.slice(0, 80) } };
        return { type: 'text', text: part, ...(marks.length > 0 ? { marks } : {}) };
      })
      .filter((part) => part.type !== 'text' || part.text !== '');
  return (tokens ?? []).flatMap((token): Inline[] => {
    const inner = 'tokens' in token ? token.tokens : undefined;
    const added = (mark: Mark): Mark[] =>
      marks.some((each) => each.type === mark.type) ? marks : [...marks, mark];
    switch (token.type) {
      case 'strong':
        return inline(inner, added({ type: 'bold' }));
      case 'em':
        return inline(inner, added({ type: 'italic' }));
      case 'link': {
        const { href } = token as Tokens.Link;
        return inline(inner, isSafeLink(href) ? added({ type: 'link', attrs: { href } }) : marks);
      }
      case 'br':
        return [{ type: 'hardBreak' }];
      case 'image':
        return text((token as Tokens.Image).text);
      case 'codespan':
        return text(unescaped((token as Tokens.Codespan).text));
      case 'html': {
        const [, close, name = ''] = /^<(\/?)([a-z]+)>$/i.exec((token as Tokens.HTML).raw.trim()) ?? [];
        const type = TAGS[name.toLowerCase()];
        if (type === 'bold' || type === 'italic')
          marks = close
            ? marks.filter((each) => each.type !== type || outer.includes(each))
            : added({ type });
        return [];
      }
      default:
        if (inner) return inline(inner, marks);
        return 'text' in token && typeof token.text === 'string'
          ? text(unescaped(token.text).replaceAll('\n', ' '))
          : [];
    }
  });
}

const paragraph = (content: Inline[]): Block =>
  content.length > 0 ? { type: 'paragraph', content } : { type: 'paragraph' };

function items(list: Tokens.List): ListItem[] {
  return list.items.map((item) => {
    const content = blocks(item.tokens);
    return { type: 'listItem', content: content.length > 0 ? content : [{ type: 'paragraph' }] };
  });
}

function blocks(tokens: readonly Token[]): Block[] {
  return tokens.flatMap((token): Block[] => {
    switch (token.type) {
      case 'heading': {
        const { depth, tokens: inner } = token as Tokens.Heading;
        return [{ type: 'heading', attrs: { level: depth <= 2 ? 2 : 3 }, content: inline(inner, []) }];
      }
      case 'list': {
        const list = token as Tokens.List;
        if (!list.ordered) return [{ type: 'bulletList', content: items(list) }];
        const start = Number(list.start);
        return [
          {
            type: 'orderedList',
            ...(Number.isInteger(start) && start !== 1 ? { attrs: { start } } : {}),
            content: items(list),
          },
        ];
      }
      case 'code':
        return (token as Tokens.Code).text
          .split('\n')
          .map((row) => paragraph(row === '' ? [] : [{ type: 'text', text: row }]));
      case 'blockquote':
        return blocks((token as Tokens.Blockquote).tokens);
      case 'space':
      case 'hr':
      case 'html':
      case 'def':
        return [];
      default: {
        const content = inline('tokens' in token ? (token.tokens ?? []) : [token], []);
        return content.length > 0 ? [paragraph(content)] : [];
      }
    }
  });
}

/**
 * CommonMark as a document. What we have no node for keeps its words: a quotation its paragraphs, code its lines, an
 * image its description. Raw HTML is left out.
 */
export function documentOfMarkdown(markdown: string): Doc {
  const content = blocks(parser.lexer(markdown));
  return content.length > 0 ? { type: 'doc', content } : EMPTY_DOCUMENT;
}

/** Whether a pasted plain text looks written in Markdown, so that pasting it as such is what was meant. */
export function looksLikeMarkdown(text: string): boolean {
  return /^(#{1,6} |[-*+] |\d+[.)] |> )/m.test(text) || /\*\*[^*\n]+\*\*|\[[^\]\n]+\]\([^)\s]+\)/.test(text);
}

const escaped = (text: string): string =>
  text
    .replace(/[\\`*_[\]<>#&]/g, (mark) => `\\${mark}`)
    // Within the words of a link, readers differ over a bracket that is escaped before one that is not.
    .replaceAll('\\](', '\\]\\(')
    // What would begin a list, a line or an underlined heading, at the beginning of a line.
    .replace(/^(\s*)([-+=~])/gm, '$1\\$2')
    .replace(/^(\s*\d+)([.)])/gm, '$1\\$2');

/** A piece of inline text with the emphasis it carries. */
interface Piece {
  text: string;
  bold: boolean;
  italic: boolean;
  href: string | null;
}

const SPACE = /^[\s\p{Zs}]/u;
const PUNCTUATION = /^[\p{P}\p{S}]/u;

/**
 * Whether a run of asterisks between two characters opens, or closes, emphasis and cannot do the other (CommonMark 0.31,
 * section 6.2): readers differ where it could do both.
 */
const flanks = (outside: string, inside: string): boolean =>
  !SPACE.test(inside) &&
  (outside === '' || SPACE.test(outside) || (PUNCTUATION.test(outside) && !PUNCTUATION.test(inside)));

const firstOf = (text: string): string => Array.from(text)[0] ?? '';
const lastOf = (text: string): string => Array.from(text).at(-1) ?? '';

/**
 * Neighbouring pieces with emphasis around runs of those that share it, so that marks open and close no more often than they must.
 * Where an asterisk could not open or close, between a letter and a full stop say, the tag stands that means the same.
 */
function emphasised(
  pieces: readonly Piece[],
  of: 'bold' | 'italic',
  within: (run: readonly Piece[]) => string,
): string {
  const runs: Piece[][] = [];
  for (const piece of pieces) {
    const last = runs.at(-1);
    if (last?.[0]?.[of] === piece[of]) last.push(piece);
    else runs.push([piece]);
  }
  const written = runs.map(within);
  const mark = of === 'bold' ? '**' : '*';
  const tag = of === 'bold' ? 'strong' : 'em';
  return runs
    .map((run, i) => {
      const text = written[i] ?? '';
      if (!run[0]?.[of] || text.trim() === '') return text;
      // CommonMark has no emphasis that begins or ends with a space.
      const [, before = '', words = '', after = ''] = /^(\s*)([\s\S]*?)(\s*)$/.exec(text) ?? [];
      const left = before === '' ? lastOf(written[i - 1] ?? '') : ' ';
      const right = after === '' ? firstOf(written[i + 1] ?? '') : ' ';
      // Readers differ over emphasis around both links and further emphasis.
      const mixed = words.includes('](<') && /[*<]/.test(words.replace(/\]\(<[^>]*>\)/g, ''));
      const apart =
        !mixed && left !== '*' && right !== '*' && firstOf(words) !== '*' && lastOf(words) !== '*';
      return apart && flanks(left, firstOf(words)) && flanks(right, lastOf(words))
        ? `${before}${mark}${words}${mark}${after}`
        : `${before}<${tag}>${words}</${tag}>${after}`;
    })
    .join('');
}

function inlineMarkdown(content: Inline[] | undefined, fill: FillField): string {
  const pieces = (content ?? []).map((part): Piece => {
    const plain = { bold: false, italic: false, href: null };
    switch (part.type) {
      case 'hardBreak':
        return { ...plain, text: '\\\n' };
      case 'field':
        return { ...plain, text: escaped(fill(part.attrs.name, part.attrs.fallback)) };
      case 'mention':
        return { ...plain, bold: true, text: escaped(part.attrs.label) };
      case 'text': {
        const has = (type: Mark['type']): boolean => part.marks?.some((mark) => mark.type === type) ?? false;
        const link = part.marks?.find((mark) => mark.type === 'link');
        return {
          text: escaped(part.text),
          bold: has('bold'),
          italic: has('italic'),
          href: link?.attrs.href ?? null,
        };
      }
    }
  });
  const linked = (run: readonly Piece[]): string =>
    run
      .map(({ text, href }) => {
        if (href === null) return text;
        const [, before = '', words = '', after = ''] = /^(\s*)([\s\S]*?)(\s*)$/.exec(text) ?? [];
        return `${before}[${words}](<${href}>)${after}`;
      })
      .join('');
  return emphasised(pieces, 'bold', (bold) => emphasised(bold, 'italic', linked));
}

function blockMarkdown(block: Block, fill: FillField): string {
  switch (block.type) {
    case 'paragraph':
      return inlineMarkdown(block.content, fill);
    case 'heading':
      return `${'#'.repeat(block.attrs.level)} ${inlineMarkdown(block.content, fill)}`;
    case 'bulletList':
    case 'orderedList': {
      const start = block.type === 'orderedList' ? (block.attrs?.start ?? 1) : 0;
      return block.content
        .map((item, i) => {
          const mark = block.type === 'orderedList' ? `${start + i}. ` : '- ';
          const body = item.content.map((inner) => blockMarkdown(inner, fill)).join('\n\n');
          return mark + body.replaceAll('\n', `\n${' '.repeat(mark.length)}`);
        })
        .join('\n');
    }
    case 'table': {
      // GitHub Flavored Markdown's tables, which most readers of CommonMark know.
      const row = ({ content }: (typeof block.content)[number]): string =>
        `| ${content
          .map((cell) =>
            cell.content
              .map((each) => inlineMarkdown(each.content, fill))
              .join(' ')
              .replaceAll('\\\n', ' ')
              .replaceAll('|', '\\|'),
          )
          .join(' | ')} |`;
      const [head, ...rest] = block.content;
      if (!head) return '';
      return [row(head), `|${' --- |'.repeat(head.content.length)}`, ...rest.map(row)].join('\n');
    }
  }
}

const asWritten: FillField = (name, fallback) => `{{${name}${fallback === '' ? '' : `|${fallback}`}}}`;

/** A document as CommonMark. Fields are written as `{{name}}`, with a fallback as `{{name|friend}}`. */
export function markdownOf(doc: Doc, fill: FillField = asWritten): string {
  return doc.content
    .map((block) => blockMarkdown(block, fill))
    .join('\n\n')
    .trim();
}
