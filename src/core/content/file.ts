import type { Content } from './announcement.ts';
import { markdownOf } from './markdown.ts';

/** Between the texts of two sections: a thematic break of CommonMark, which no text of ours has. */
export const BREAK = '* * *';

/**
 * An announcement as a file: CommonMark with front matter (YAML, written in JSON, of which it is a superset). The texts of its sections
 * stand one after the other; what else there is of it, and of each section, is in the front matter. Of which series it is an issue is
 * not in it: that is of this organisation alone.
 */
export function announcementFile({ title, byline, importance, button, event, sections }: Content): string {
  const of = sections.map(({ heading, accent, image, gallery, video, files }) => ({
    ...(heading === '' ? {} : { heading }),
    ...(accent === 'none' ? {} : { accent }),
    ...(image === null ? {} : { image }),
    ...(gallery.length === 0 ? {} : { gallery }),
    ...(video === null ? {} : { video }),
    ...(files.length === 0 ? {} : { files }),
  }));
  const front = Object.entries({
    title,
    ...(byline === '' ? {} : { byline }),
    importance,
    ...(button === null ? {} : { button }),
    ...(event === null ? {} : { event }),
    ...(of.some((each) => Object.keys(each).length > 0) ? { sections: of } : {}),
  }).map(([name, value]) => `${name}: ${JSON.stringify(value)}`);
  const texts = sections.map((section) => markdownOf(section.document).trim());
  return `---\n${front.join('\n')}\n---\n\n${texts.join(`\n\n${BREAK}\n\n`)}\n`;
}
