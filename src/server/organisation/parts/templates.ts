import type { Content } from '../../../core/content/announcement.ts';
import { freeName, sameName } from '../../../core/organisation/parts.ts';
import { MAX_TITLE } from '../../../core/content/announcement.ts';
import type { Plan } from '../../../core/plan/plan.ts';
import { readContent, readPlan } from '../../../core/stored.ts';
import { insertAnnouncement, templates } from '../../announcements/store.ts';
import { record } from '../../audit/store.ts';
import { wrongArchive } from '../archiveFile.ts';
import { partOf, withoutKeys, withUploads, type Bringing, type FoundPart } from './bringing.ts';

interface Template {
  content: Content;
  plan: Plan;
}

/** More templates than a desk has. */
const MOST = 5_000;

function read(content: unknown, plan: unknown): Template {
  try {
    return { content: readContent(JSON.stringify(content)), plan: readPlan(JSON.stringify(plan)) };
  } catch {
    throw wrongArchive('A template in this archive is not as Clear Bell writes it. Take it out again.');
  }
}

const titleOf = ({ content }: Template): string => content.title.trim() || 'Without a title';

/** The templates of an archive, with whom they are for, beside those here. */
export async function templateParts(by: Bringing): Promise<FoundPart[]> {
  const here = (await templates(by.db, MOST)).map(({ content, plan }): Template => ({ content, plan }));
  const same = new Set(here.map(withoutKeys));
  const titles = new Set(here.map((each) => sameName(titleOf(each))));
  const parts: FoundPart[] = [];
  for await (const row of by.contents.each('announcements')) {
    if (row.state !== 'template') continue;
    const template = read(row.content, row.plan);
    const title = titleOf(template);
    const { document, needs, why } = by.resolving.resolve(template);
    const isSame = document !== null && same.has(withoutKeys(document));
    const isNamed = titles.has(sameName(title));
    const beside = freeName(title, (tried) => titles.has(sameName(tried)), MAX_TITLE);
    const clash = why.length > 0 || (isNamed && !isSame);
    parts.push(
      partOf('template', row.id, {
        name: title,
        state: isSame ? 'same' : clash ? 'clash' : 'new',
        says: [],
        why: [...why, ...(clash && why.length === 0 ? ['One of this title says something else here.'] : [])],
        needs,
        beside: clash && why.length === 0 ? beside : null,
        bring: async (now) => {
          const found = await withUploads(now, now.resolving.resolve(template).document ?? template);
          const called = isNamed ? beside : title;
          const id = await insertAnnouncement(
            now.db,
            now.actor.id,
            { ...found.content, title: called },
            found.plan,
            'template',
          );
          await record(now.db, {
            actorId: now.actor.id,
            action: 'save as template',
            subject: 'announcement',
            subjectId: id,
          });
          return { id, name: called, path: `/write/${id}` };
        },
      }),
    );
  }
  return parts;
}
