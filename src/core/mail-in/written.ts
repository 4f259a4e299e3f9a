import EmailReplyParser from 'email-reply-parser';
import TurndownService from 'turndown';
import type { Block, Doc, Inline } from '../content/document.ts';
import { EMPTY_DOCUMENT, MAX_TEXT } from '../content/document.ts';
import { isSafeLink } from '../content/link.ts';
import { documentOfMarkdown } from '../content/markdown.ts';

const turndown = new TurndownService({ headingStyle: 'atx', bulletListMarker: '-' });
turndown.remove(['style', 'script', 'title', 'head', 'noscript', 'template', 'iframe', 'form', 'button']);
turndown.addRule('images', { filter: 'img', replacement: () => '' });

/** The words of somebody's answer, without what they quoted below and their signature. */
export function ownAnswer(text: string): string {
  return new EmailReplyParser().parseReply(text).trim();
}

const ADDRESS = /(https?:\/\/[^\s<>"]+[^\s<>".,;:!?)\]}'’])/g;

const inlineOf = (line: string): Inline[] =>
  line
    .split(ADDRESS)
    .filter((part) => part !== '')
    .map((part) =>
      /^https?:\/\//.test(part) && isSafeLink(part)
        ? { type: 'text', text: part, marks: [{ type: 'link', attrs: { href: part } }] }
        : { type: 'text', text: part },
    );

/** Lines at least so long were broken by a mail program, not by whoever wrote them. */
const WRAPPED_FROM = 60;

/**
 * A plain text as a document: paragraphs where a line is blank, lines as they were broken, except where a mail program broke
 * them; addresses of the web as links.
 */
export function documentOfPlain(text: string): Doc {
  const blocks = text
    .slice(0, MAX_TEXT)
    .replace(/\r\n?/g, '\n')
    .split(/\n[ \t]*\n+/)
    .map((paragraph) => paragraph.split('\n').map((line) => line.trim()))
    .filter((lines) => lines.some((line) => line !== ''))
    .map((lines): Block => {
      const content = lines.flatMap((line, at): Inline[] => {
        const before = lines[at - 1];
        if (before === undefined) return inlineOf(line);
        const gap: Inline =
          before.length >= WRAPPED_FROM ? { type: 'text', text: ' ' } : { type: 'hardBreak' };
        return [gap, ...inlineOf(line)];
      });
      return { type: 'paragraph', content };
    });
  return blocks.length === 0 ? EMPTY_DOCUMENT : { type: 'doc', content: blocks };
}

/** Nothing anybody writes is nested deeper, nor longer. */
const DEEPEST = 200;
const LONGEST_HTML = 500_000;
const NESTING =
  /<(\/?)(?:div|table|tbody|tr|td|span|font|center|blockquote|section|article|ul|ol|a|b|i|em|strong)\b/gi;

function depthOf(html: string): number {
  let depth = 0;
  let deepest = 0;
  for (const [, closes] of html.matchAll(NESTING)) {
    depth = Math.max(0, depth + (closes === '' ? 1 : -1));
    deepest = Math.max(deepest, depth);
  }
  return deepest;
}

/**
 * An HTML text of a mail as a document: headings, lists, emphasis and links stay, what only paints it goes. Null where it is longer,
 * or nested deeper, than anybody writes.
 */
export function documentOfMailHtml(html: string): Doc | null {
  if (html.length > LONGEST_HTML || depthOf(html) > DEEPEST) return null;
  const document = documentOfMarkdown(turndown.turndown(html).slice(0, MAX_TEXT));
  return document.content.length === 0 ? EMPTY_DOCUMENT : document;
}
