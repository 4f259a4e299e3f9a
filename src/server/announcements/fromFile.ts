import { z } from 'zod';
import type { Content } from '../../core/content/announcement.ts';
import { FileProblem, readAnnouncementFile } from '../../core/content/fileReading.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { uploaderOf } from '../uploads/store.ts';
import { insertAnnouncement } from './store.ts';

export const fromFileSchema = z
  .object({ text: z.string().max(400_000, 'A file of an announcement has at most 400,000 characters') })
  .strict();

type Section = Content['sections'][number];

/** A section without uploads that are not here, or are not this person's to use; and what those were. */
async function withOwn(
  db: Database,
  actor: Actor,
  section: Section,
): Promise<{ section: Section; leftOut: string[] }> {
  const leftOut: string[] = [];
  const may = async (key: string, name: string): Promise<boolean> => {
    const by = await uploaderOf(db, key);
    const its = by !== undefined && (actor.role === 'coordinator' || by === actor.id);
    if (!its) leftOut.push(name);
    return its;
  };
  const those = async <T extends { key: string }>(
    all: readonly T[],
    named: (one: T) => string,
  ): Promise<T[]> => {
    const kept: T[] = [];
    for (const one of all) if (await may(one.key, named(one))) kept.push(one);
    return kept;
  };
  const { image, video } = section;
  const [keptImage] = await those(image ? [image] : [], ({ alt }) => alt || 'an image');
  const [keptVideo] = await those(video ? [video] : [], ({ name }) => name);
  const beside = keptVideo ? [keptVideo.poster?.key, keptVideo.captions].flatMap((key) => key ?? []) : [];
  const whole =
    (
      await those(
        beside.map((key) => ({ key })),
        () => keptVideo?.name ?? '',
      )
    ).length === beside.length;
  return {
    section: {
      ...section,
      image: keptImage ?? null,
      gallery: await those(section.gallery, ({ alt }) => alt || 'an image'),
      video: whole ? (keptVideo ?? null) : null,
      files: await those(section.files, ({ name }) => name),
    },
    leftOut,
  };
}

/**
 * Begins a draft from a file of CommonMark with front matter. Images and files that are not here are left out, and named.
 *
 * @throws 422 with the field at fault where it is no such file
 */
export async function beginFromFile(
  db: Database,
  actor: Actor,
  { text }: z.infer<typeof fromFileSchema>,
): Promise<{ id: number; leftOut: string[] }> {
  requireDesk(actor);
  let content: Content;
  try {
    content = readAnnouncementFile(text);
  } catch (error) {
    if (!(error instanceof FileProblem)) throw error;
    throw new Problem(422, error.message, { errors: [{ field: error.field, detail: error.message }] });
  }
  const sections = [];
  for (const section of content.sections) sections.push(await withOwn(db, actor, section));
  const id = await insertAnnouncement(
    db,
    actor.id,
    { ...content, sections: sections.map(({ section }) => section) },
    EMPTY_PLAN,
    'draft',
  );
  return { id, leftOut: sections.flatMap(({ leftOut }) => leftOut) };
}
