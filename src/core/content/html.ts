import {
  escapeHTML,
  escapeHTMLAttribute,
  renderJSONContentToString,
  serializeChildrenToHTMLString as children,
} from '@tiptap/static-renderer/json/html-string';
import type { Doc } from './document.ts';
import { isSafeLink } from './link.ts';

interface RenderedNode {
  type: string;
  text?: string;
  attrs?: Record<string, unknown>;
}

interface RenderedMark {
  type: string;
  attrs?: { href?: unknown };
}

const render = renderJSONContentToString<RenderedMark, RenderedNode & { content?: RenderedNode[] }>({
  nodeMapping: {
    doc: ({ children: inner }) => children(inner),
    paragraph: ({ children: inner }) => `<p>${children(inner)}</p>`,
    heading: ({ node, children: inner }) => {
      // An announcement's title is the page's heading; its own headings stand one below.
      const level = node.attrs?.level === 3 ? 4 : 3;
      return `<h${level}>${children(inner)}</h${level}>`;
    },
    bulletList: ({ children: inner }) => `<ul>${children(inner)}</ul>`,
    orderedList: ({ node, children: inner }) => {
      const start = node.attrs?.start;
      return `<ol${typeof start === 'number' && start !== 1 ? ` start="${Math.trunc(start)}"` : ''}>${children(inner)}</ol>`;
    },
    listItem: ({ children: inner }) => `<li>${children(inner)}</li>`,
    hardBreak: () => '<br>',
    text: ({ node }) => escapeHTML(node.text ?? ''),
  },
  markMapping: {
    bold: ({ children: inner }) => `<strong>${children(inner)}</strong>`,
    italic: ({ children: inner }) => `<em>${children(inner)}</em>`,
    link: ({ mark, children: inner }) => {
      const href = typeof mark.attrs?.href === 'string' ? mark.attrs.href : '';
      if (!isSafeLink(href)) return children(inner);
      return `<a href="${escapeHTMLAttribute(href)}" rel="noopener noreferrer nofollow">${children(inner)}</a>`;
    },
  },
});

/**
 * The one rendering of a document to HTML, for board, inbox, preview and mail alike. Text and addresses are
 * escaped, links that could run something lose their link, and nothing else gets through: the output needs no
 * further cleaning.
 */
export function documentHtml(doc: Doc): string {
  // The renderer's types know any JSON; ours is a subset, held by `documentSchema`.
  return render({ content: doc as unknown as RenderedNode });
}
