import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  contentProblems,
  draftContentSchema,
  EMPTY_CONTENT,
  type Content,
} from '../../src/core/content/announcement.ts';
import type { Block, Doc, Inline } from '../../src/core/content/document.ts';
import { eventSpan } from '../../src/core/content/event.ts';
import { fieldValue, type Reader } from '../../src/core/content/field.ts';
import { fillFor, sectionsHtml } from '../../src/core/content/html.ts';
import { documentOfMarkdown, looksLikeMarkdown, markdownOf } from '../../src/core/content/markdown.ts';
import {
  emptySection,
  imagePath,
  partsOf,
  plainSection,
  type Image,
} from '../../src/core/content/section.ts';
import { sectionsText } from '../../src/core/content/text.ts';
import { numbered } from '../../src/core/series/series.ts';

const paragraph = (...content: Inline[]): Block => ({ type: 'paragraph', content });
const text = (words: string): Inline => ({ type: 'text', text: words });
const doc = (...content: Block[]): Doc => ({ type: 'doc', content });
const image: Image = {
  key: 'a'.repeat(22),
  alt: 'A "shelf" <of> drawers',
  placement: 'wide',
  focus: { x: 30, y: 70 },
  width: 1600,
  height: 900,
};
const reader: Reader = {
  name: 'Sarita Thapali',
  station: null,
  greeting: '',
  occupation: 'field collector',
  zone: 'Asia/Kathmandu',
  atMs: Date.parse('2026-12-01T20:00:00Z'),
  eventMs: Date.parse('2026-12-04T10:00:00Z'),
};

describe('sections', () => {
  it('are split into parts by whole sections, and nothing is lost or moved', () => {
    fc.assert(
      fc.property(fc.array(fc.integer()), fc.integer({ min: 1, max: 12 }), (sections, limit) => {
        const parts = partsOf(sections, limit);
        expect(parts.flat()).toEqual(sections);
        expect(parts.every((part) => part.length <= limit)).toBe(true);
        expect(parts.slice(0, -1).every((part) => part.length === limit)).toBe(true);
      }),
    );
    expect(partsOf([], 10)).toEqual([[]]);
  });

  it('say what keeps them from going out', () => {
    const fields = (part: Partial<Content>): string[] =>
      contentProblems({
        ...EMPTY_CONTENT,
        title: 'T',
        sections: [plainSection(doc(paragraph(text('x'))))],
        ...part,
      }).map((problem) => problem.field);
    expect(fields({})).toEqual([]);
    const bare = { ...plainSection(doc(paragraph(text('x')))), image: { ...image, alt: ' ' } };
    expect(fields({ sections: [bare] })).toEqual(['sections.s1.alt']);
    expect(fields({ sections: [plainSection(doc(paragraph(text('x')))), emptySection('s2')] })).toEqual([
      'sections.s2',
    ]);
    const event = { wall: '2026-12-04T10:00', zone: 'UTC', minutes: 60, place: ' ', link: '', signUp: false };
    expect(fields({ event })).toEqual(['event.place']);
    expect(fields({ event: { ...event, link: 'javascript:alert(1)' } })).toEqual(['event.link']);
    expect(eventSpan(event).endMs - eventSpan(event).startMs).toBe(3_600_000);
  });

  it('are stored only with ids of their own', () => {
    const twice = { ...EMPTY_CONTENT, sections: [emptySection('s1'), emptySection('s1')] };
    expect(draftContentSchema.safeParse(twice).success).toBe(false);
  });

  it('are rendered escaped, for the page and for mail, with the image cut around its focal point', () => {
    const sections = [
      {
        ...plainSection(doc(paragraph(text('Look')))),
        heading: 'Shelves & <drawers>',
        accent: 'madder' as const,
        image,
        files: [{ key: 'b'.repeat(22), name: 'list "1".pdf', mime: 'application/pdf', bytes: 2_400_000 }],
      },
    ];
    expect(imagePath(image, 'page')).toBe(`/files/${image.key}/wide-30-70.webp`);
    const page = sectionsHtml(sections, fillFor(null), { kind: 'page', level: 2 });
    expect(page).toContain('<h2 dir="auto">Shelves &amp; &lt;drawers&gt;</h2>');
    expect(page).toContain('alt="A &quot;shelf&quot; &lt;of&gt; drawers"');
    expect(page).toContain('2.4 MB');
    expect(page).not.toMatch(/ style=/);
    const mail = sectionsHtml(sections, fillFor(null), { kind: 'mail', publicUrl: 'https://bell.test' });
    expect(mail).toContain(`src="https://bell.test/files/${image.key}/wide-30-70.jpg"`);
    expect(mail).toContain('#A3312B');
    expect(sectionsText(sections)).toBe(
      `Shelves & <drawers>\n===================\n\n[Image: A "shelf" <of> drawers]\n\nLook\n\nlist "1".pdf: /files/${'b'.repeat(22)}/list%20%221%22.pdf`,
    );
  });
});

describe('fields', () => {
  it('are told in the reader’s own clock, and by their fallback where nothing is known', () => {
    expect(fieldValue('first name', reader)).toBe('Sarita');
    expect(fieldValue('first name', { ...reader, name: 'माया' })).toBe('माया');
    expect(fieldValue('date', reader)).toBe('Wednesday 2 December');
    expect(fieldValue('event time', reader)).toBe('15:45 on Friday 4 December');
    const field = (name: 'station' | 'name', fallback: string): Inline => ({
      type: 'field',
      attrs: { name, fallback },
    });
    const sections = [plainSection(doc(paragraph(text('To '), field('station', 'all <stations>'))))];
    expect(sectionsHtml(sections, fillFor(reader))).toContain('To all &lt;stations&gt;');
    expect(sectionsHtml(sections, fillFor({ ...reader, station: 'Oru & Co' }))).toContain('To Oru &amp; Co');
  });

  it('the number of an issue takes its place in the title', () => {
    expect(numbered('No. {number}: {number} seeds', 12)).toBe('No. 12: 12 seeds');
    expect(numbered('No. {number}', null)).toBe('No. {number}');
  });
});

const words = fc.stringMatching(/^[A-Za-z0-9*_[\]<>#`\\.+-]{1,12}$/);
const inlines = fc
  .array(
    fc.record({
      words,
      mark: fc.constantFrom(null, 'bold' as const, 'italic' as const),
    }),
    { minLength: 1, maxLength: 4 },
  )
  .map((parts): Inline[] =>
    // Neighbours of one kind are one text, and what is marked does not touch what is marked.
    parts.flatMap(({ words: part, mark }, i): Inline[] => [
      ...(i > 0 ? [text(' ')] : []),
      mark ? { type: 'text', text: part, marks: [{ type: mark }] } : text(part),
    ]),
  )
  .map((parts) =>
    parts.reduce<Inline[]>((joined, part) => {
      const last = joined.at(-1);
      if (last?.type === 'text' && part.type === 'text' && !last.marks && !part.marks)
        return [...joined.slice(0, -1), text(last.text + part.text)];
      return [...joined, part];
    }, []),
  );

describe('Markdown', () => {
  it('comes back as the document it was written from, whatever the text holds', () => {
    const blocks = fc.array(
      fc.oneof(
        inlines.map((content): Block => ({ type: 'paragraph', content })),
        inlines.map((content): Block => ({ type: 'heading', attrs: { level: 2 }, content })),
        inlines.map((content): Block => ({
          type: 'bulletList',
          content: [{ type: 'listItem', content: [{ type: 'paragraph', content }] }],
        })),
      ),
      { minLength: 1, maxLength: 4 },
    );
    const plain = (document: Doc): string => JSON.stringify(document).replace(/\s+/g, ' ');
    fc.assert(
      fc.property(blocks, (content) => {
        // Two lists in a row are one list in Markdown, which no bullet can tell apart.
        const apart = content.filter(
          (block, i) => block.type !== 'bulletList' || content[i - 1]?.type !== 'bulletList',
        );
        const document = doc(...apart);
        expect(plain(documentOfMarkdown(markdownOf(document)))).toBe(plain(document));
      }),
      { numRuns: 300 },
    );
  });

  it('keeps fields, drops what could run, and loses no words', () => {
    const written = markdownOf(
      doc(paragraph(text('Dear '), { type: 'field', attrs: { name: 'first name', fallback: 'friend' } })),
    );
    expect(written).toBe('Dear {{first name|friend}}');
    expect(documentOfMarkdown(written).content[0]).toEqual(
      paragraph(text('Dear '), { type: 'field', attrs: { name: 'first name', fallback: 'friend' } }),
    );
    const hostile = documentOfMarkdown(
      '[go](javascript:alert(1)) <script>x</script>\n\n> said\n\n`code`\n\n![a shelf](x.png)',
    );
    expect(JSON.stringify(hostile)).not.toMatch(/javascript|script>/);
    expect(JSON.stringify(hostile)).toMatch(/go.*said.*code.*a shelf/);
    expect(looksLikeMarkdown('- one\n- two')).toBe(true);
    expect(looksLikeMarkdown('Meet at 9 - bring a torch. 2 of us.')).toBe(false);
  });
});

describe('Markdown that is copied out and pasted back', () => {
  type Piece = Extract<Inline, { type: 'text' }>;
  const MARKS: NonNullable<Piece['marks']> = [
    { type: 'bold' },
    { type: 'italic' },
    { type: 'link', attrs: { href: 'https://drawers.example/' } },
  ];
  /** Every sign with the marks it carries; spaces alike, however many, and without marks of their own. */
  const signs = (blocks: readonly Block[]): string =>
    blocks
      .flatMap((block) => ('content' in block ? (block.content as readonly Piece[]) : []))
      .flatMap(({ text: words, marks = [] }) => {
        const carried = marks
          .map((mark) => mark.type)
          .sort()
          .join('+');
        return Array.from(words, (sign) => (sign === ' ' ? ' ' : `${sign}${carried}|`));
      })
      .join('')
      .replace(/ +/g, ' ');

  it('has the words and the marks it had, whatever stands beside them', () => {
    const piece = fc.record({
      text: fc
        .string({
          unit: fc.constantFrom(...'ab.*"_ é()[]<&\\1`~#'.split('')),
          minLength: 1,
          maxLength: 6,
        })
        .filter((words) => words.trim() !== ''),
      marks: fc.subarray(MARKS),
    });
    fc.assert(
      fc.property(fc.array(piece, { minLength: 1, maxLength: 6 }), (pieces) => {
        const content: Inline[] = pieces.map(({ text: words, marks }, i) => ({
          type: 'text',
          // A paragraph neither begins nor ends with spaces.
          text: `${i === 0 ? 'x' : ''}${words}${i === pieces.length - 1 ? 'x' : ''}`,
          ...(marks.length > 0 ? { marks } : {}),
        }));
        const before = doc(paragraph(...content));
        const back = documentOfMarkdown(markdownOf(before));
        expect(signs(back.content)).toBe(signs(before.content));
      }),
      { numRuns: 3_000 },
    );
  });
});
