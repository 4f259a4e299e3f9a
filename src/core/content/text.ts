import type { Block, Doc, Inline } from './document.ts';

const segmenter = new Intl.Segmenter('en', { granularity: 'grapheme' });

/** Characters as readers see them: an emoji of several code points is one. */
const graphemes = (text: string): string[] => Array.from(segmenter.segment(text), (part) => part.segment);

function line(content: Inline[] | undefined): string {
  return (content ?? [])
    .map((part) => {
      if (part.type === 'hardBreak') return '\n';
      const link = part.marks?.find((mark) => mark.type === 'link');
      return link && link.attrs.href !== part.text ? `${part.text} <${link.attrs.href}>` : part.text;
    })
    .join('');
}

function blockText(block: Block, indent: string): string {
  switch (block.type) {
    case 'paragraph':
      return line(block.content);
    case 'heading': {
      const heading = line(block.content);
      return `${heading}\n${'-'.repeat(Math.min(60, Math.max(3, graphemes(heading).length)))}`;
    }
    case 'bulletList':
    case 'orderedList': {
      const start = block.type === 'orderedList' ? (block.attrs?.start ?? 1) : 0;
      return block.content
        .map((item, i) => {
          const mark = block.type === 'orderedList' ? `${start + i}. ` : '- ';
          const hang = ' '.repeat(mark.length);
          const body = item.content.map((inner) => blockText(inner, indent + hang)).join('\n');
          return mark + body.replaceAll('\n', `\n${hang}`);
        })
        .join('\n');
    }
  }
}

/** A document as plain text: for the text part of mail, for search, for a line that stands for the whole. */
export function documentText(doc: Doc): string {
  return doc.content
    .map((block) => blockText(block, ''))
    .join('\n\n')
    .trim();
}

/** The first words of a document on one line, cut at a word, at most `length` characters. */
export function excerpt(doc: Doc, length = 160): string {
  const words = doc.content
    .map((block) =>
      block.type === 'paragraph' || block.type === 'heading' ? line(block.content) : blockText(block, ''),
    )
    .join(' ')
    .replace(/ <[^>]*>/g, '')
    .replace(/\s+/g, ' ')
    .trim();
  const characters = graphemes(words);
  if (characters.length <= length) return words;
  const cut = characters.slice(0, length).join('');
  const space = cut.lastIndexOf(' ');
  return `${cut.slice(0, space > length / 2 ? space : undefined).trimEnd()}…`;
}
