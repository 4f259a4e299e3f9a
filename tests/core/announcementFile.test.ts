import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_CONTENT, IMPORTANCES, type Content } from '../../src/core/content/announcement.ts';
import { announcementFile } from '../../src/core/content/file.ts';
import { FileProblem, readAnnouncementFile } from '../../src/core/content/fileReading.ts';
import { documentOfMarkdown, markdownOf } from '../../src/core/content/markdown.ts';
import { ACCENTS, emptySection } from '../../src/core/content/section.ts';

const KEY = 'abcdefghijklmnopqrstuv';
const words = fc
  .string({ unit: 'grapheme', minLength: 1, maxLength: 40 })
  .filter((text) => text.trim() !== '');
/** Text that nothing of Markdown is in: what is kept of that is tested by itself. */
const plain = fc
  .array(fc.stringMatching(/^[a-zäöü]{1,9}$/), { minLength: 1, maxLength: 12 })
  .map((all) => all.join(' '));
const section = fc
  .record({
    heading: fc.oneof(fc.constant(''), words),
    accent: fc.constantFrom(...ACCENTS),
    text: fc.array(plain, { minLength: 1, maxLength: 4 }),
    file: fc.boolean(),
  })
  .map(({ heading, accent, text, file }) => ({
    ...emptySection('s1'),
    heading,
    accent,
    document: documentOfMarkdown(text.join('\n\n')),
    files: file ? [{ key: KEY, name: 'list.csv', mime: 'text/csv', bytes: 12 }] : [],
  }));
const announcement: fc.Arbitrary<Content> = fc
  .record({
    title: words,
    byline: fc.oneof(fc.constant(''), words),
    importance: fc.constantFrom(...IMPORTANCES),
    button: fc.option(fc.record({ label: words, url: fc.constant('https://thistledown.example/x?y=1#z') })),
    sections: fc.array(section, { minLength: 1, maxLength: 4 }),
  })
  .map(({ sections, ...rest }) => ({
    ...EMPTY_CONTENT,
    ...rest,
    sections: sections.map((each, i) => ({ ...each, id: `s${i + 1}` })),
  }));

describe('an announcement as a file', () => {
  it('is the same when it is read again', () => {
    fc.assert(
      fc.property(announcement, (content) => {
        expect(readAnnouncementFile(announcementFile(content))).toEqual(content);
      }),
    );
  });

  it('keeps what its text has: emphasis, links, lists, tables, fields', () => {
    const text =
      'Dear {{name|friend}},\n\n## Read *this*\n\n- one **bold**\n- [two](<https://x.example/>)\n\n1. first\n2. second\n\n| a | b |\n| --- | --- |\n| 1 | 2 |';
    const content: Content = {
      ...EMPTY_CONTENT,
      title: 'All of it',
      sections: [{ ...emptySection('s1'), document: documentOfMarkdown(text) }],
    };
    const again = readAnnouncementFile(announcementFile(content));
    expect(markdownOf(again.sections[0]!.document)).toBe(markdownOf(content.sections[0]!.document));
    expect(again.sections[0]!.document).toEqual(content.sections[0]!.document);
  });

  it('is read without front matter: its first heading is its title', () => {
    expect(
      readAnnouncementFile(
        '\uFEFF# The press is ready\r\n\r\nCome today.\r\n\r\n* * *\r\n\r\nOr tomorrow.\r\n',
      ),
    ).toMatchObject({
      title: 'The press is ready',
      sections: [{ id: 's1' }, { id: 's2' }],
    });
    expect(readAnnouncementFile('Just a line.').title).toBe('Just a line.');
    expect(
      readAnnouncementFile(
        '---\ntitle: In YAML\nimportance: urgent\nbutton:\n  label: Go\n  url: https://x.example\n---\nText',
      ),
    ).toMatchObject({
      title: 'In YAML',
      importance: 'urgent',
      button: { label: 'Go', url: 'https://x.example' },
    });
  });

  it.each([
    ['---\ntitle: [\n---\nx', 'text'],
    ['---\n- a\n---\nx', 'text'],
    ['---\ntitle: x\nimportance: loud\n---\nx', 'importance'],
    ['---\ntitle: x\nsections: [{"accent": "pink"}]\n---\nx', 'sections.0.accent'],
    [`---\na: &a [x, x]\nb: [*a, *a]\n---\nx`, 'text'],
    [`# ${'x'.repeat(10)}\n\n${'word '.repeat(20_000)}`, 'sections.0.document'],
  ])('is refused where it is none: %s', (text, field) => {
    try {
      readAnnouncementFile(text);
      expect.unreachable();
    } catch (error) {
      expect(error).toBeInstanceOf(FileProblem);
      expect((error as FileProblem).field).toBe(field);
    }
  });
});
