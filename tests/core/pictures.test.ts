import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { contentProblems, EMPTY_CONTENT } from '../../src/core/content/announcement.ts';
import { fillFor, sectionsHtml } from '../../src/core/content/html.ts';
import {
  emptySection,
  fittingPlacement,
  imagePath,
  imageSize,
  imageWidths,
  PLACEMENTS,
  shownShare,
  type Image,
  type Section,
  type Video,
} from '../../src/core/content/section.ts';
import { sectionSchema } from '../../src/core/content/sectionSchema.ts';
import { sectionsText } from '../../src/core/content/text.ts';

const image: Image = {
  key: 'a'.repeat(22),
  alt: 'A terrace',
  placement: 'wide',
  focus: { x: 50, y: 50 },
  width: 1600,
  height: 300,
};
const video: Video = {
  key: 'v'.repeat(22),
  name: 'tour.webm',
  mime: 'video/webm',
  bytes: 900_000,
  title: 'A tour of <the> vault',
  poster: { key: 'p'.repeat(22), width: 1280, height: 720 },
  captions: 'c'.repeat(22),
  transcript: 'Here is the door.\n\nBehind it is the cold.',
};
const section = (part: Partial<Section>): Section => ({ ...emptySection('s1'), ...part });
const page = (part: Partial<Section>): string =>
  sectionsHtml([section(part)], fillFor(null), { kind: 'page', level: 2 });
const mail = (part: Partial<Section>): string =>
  sectionsHtml([section(part)], fillFor(null), {
    kind: 'mail',
    publicUrl: 'https://bell.test',
    watchUrl: 'https://bell.test/for-me/7',
  });

describe('an image in its place', () => {
  it('is never shown larger than what of it stands there, nor made with more pixels than it has', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5000 }),
        fc.integer({ min: 1, max: 5000 }),
        fc.constantFrom(...PLACEMENTS),
        (width, height, placement) => {
          const one = { ...image, width, height, placement };
          const size = imageSize(one);
          expect(size.width).toBeLessThanOrEqual(Math.max(1, width));
          expect(size.width).toBeLessThanOrEqual(placement === 'beside' ? 240 : 640);
          const widths = imageWidths(one);
          expect(widths.length).toBeGreaterThan(0);
          for (const each of widths) expect(each.width).toBeLessThanOrEqual(Math.max(width, 1));
          // Each further size is a larger one.
          expect([...widths].sort((a, b) => a.width - b.width)).toEqual(widths);
        },
      ),
    );
  });

  it('of a banner’s shape says how little of it a cut leaves, and fits best uncut', () => {
    expect(shownShare(image)).toBe(33);
    expect(imageSize(image)).toEqual({ width: 533, height: 300 });
    expect(fittingPlacement(image)).toBe('whole');
    expect(fittingPlacement({ width: 1920, height: 1080 })).toBe('wide');
    expect(imageSize({ ...image, placement: 'whole' })).toEqual({ width: 640, height: 120 });
  });

  it('comes in sizes for dense screens, and in a mail in one', () => {
    const html = page({ image: { ...image, width: 2400, height: 1350 } });
    expect(html).toContain(`${imagePath(image, 'page', 1)} 640w`);
    expect(html).toContain(`${imagePath(image, 'page', 3)} 1920w`);
    expect(page({ image: { ...image, width: 300, height: 200, placement: 'whole' } })).not.toContain(
      'srcset',
    );
    expect(mail({ image })).not.toContain('srcset');
  });

  it('stands with others in a row, each leading to itself whole', () => {
    const html = page({ image, gallery: [{ ...image, key: 'g'.repeat(22), alt: 'Rows of "boxes"' }] });
    expect(html).toContain('<ul class="gallery">');
    expect(html).toContain(`href="/files/${'g'.repeat(22)}/whole@3.webp"`);
    expect(html).toContain('alt="Rows of &quot;boxes&quot;"');
    expect(sectionsText([section({ gallery: [image] })])).toContain('[Image: A terrace]');
  });
});

describe('a video', () => {
  it('plays in its place with its captions and the text beside it, and in a mail is its picture with a link', () => {
    const html = page({ video });
    expect(html).toContain(`<source src="/files/${video.key}/video.webm" type="video/webm">`);
    expect(html).toContain(`<track kind="captions" src="/files/${'c'.repeat(22)}/captions.vtt"`);
    expect(html).toContain('<p>Behind it is the cold.</p>');
    expect(html).toContain('A tour of &lt;the&gt; vault');
    expect(html).not.toContain('<the>');
    const letter = mail({ video });
    expect(letter).not.toContain('<video');
    expect(letter).toContain('<a href="https://bell.test/for-me/7"');
    expect(letter).toContain(`https://bell.test/files/${'p'.repeat(22)}/whole.jpg`);
    expect(sectionsText([section({ video })])).toContain('Behind it is the cold.');
  });

  it('goes out only with a title, and with captions or a text for those who cannot hear it', () => {
    const fields = (part: Partial<Video>): string[] =>
      contentProblems({
        ...EMPTY_CONTENT,
        title: 'A tour',
        sections: [section({ video: { ...video, ...part } })],
      }).map((problem) => problem.field);
    expect(fields({})).toEqual([]);
    expect(fields({ captions: null })).toEqual([]);
    expect(fields({ transcript: ' ' })).toEqual([]);
    expect(fields({ title: '', captions: null, transcript: '' })).toEqual([
      'sections.s1.video.title',
      'sections.s1.video.transcript',
    ]);
  });

  it('and further images are nothing in what was stored before there were any', () => {
    const { gallery, video: none, ...before } = emptySection('s1');
    expect(sectionSchema.parse(before)).toMatchObject({ gallery, video: none });
    expect(sectionSchema.safeParse(section({ video: { ...video, key: '../etc' } })).success).toBe(false);
  });
});
