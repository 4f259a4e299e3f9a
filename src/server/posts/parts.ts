import { partsOf, type Section } from '../../core/content/section.ts';
import type { PostRow } from './store.ts';

/** The sections that stand in a post: all, or those of its part where what it shows is longer than its board takes. */
export const sectionsOfPost = ({
  body,
  part,
  parts,
  partSize,
}: Pick<PostRow, 'body' | 'part' | 'parts' | 'partSize'>): readonly Section[] =>
  parts > 1 ? (partsOf(body.sections, partSize)[part - 1] ?? []) : body.sections;
