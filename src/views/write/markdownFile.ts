import type { Content } from '../../core/content/announcement.ts';
import { markdownOf } from '../../core/content/markdown.ts';

/** A draft's text as CommonMark, for taking it elsewhere. */
export function markdownFile(content: Content): string {
  const sections = content.sections.map((section) =>
    [section.heading.trim() === '' ? '' : `## ${section.heading.trim()}`, markdownOf(section.document)]
      .filter(Boolean)
      .join('\n\n'),
  );
  const button = content.button ? `[${content.button.label}](<${content.button.url}>)` : '';
  return `${[`# ${content.title.trim()}`, content.byline, ...sections, button].filter(Boolean).join('\n\n')}\n`;
}
