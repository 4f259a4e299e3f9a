import { partsOf, type Section } from '../../core/content/section.ts';
import type { Body } from '../../core/content/announcement.ts';

/** The sections that stand in a post: all, or those of its part where what it shows is longer than its board takes. */
export const sectionsOfPost = ({
  body,
  part,
  parts,
  partSize,
}: {
  body: Body;
  part: number;
  parts: number;
  partSize: number;
}): readonly Section[] => (parts > 1 ? (partsOf(body.sections, partSize)[part - 1] ?? []) : body.sections);
