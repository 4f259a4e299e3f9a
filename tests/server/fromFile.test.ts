import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EMPTY_CONTENT } from '../../src/core/content/announcement.ts';
import { announcementFile } from '../../src/core/content/file.ts';
import { documentOfMarkdown } from '../../src/core/content/markdown.ts';
import { emptySection, type FileLink } from '../../src/core/content/section.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { beginFromFile } from '../../src/server/announcements/fromFile.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { keepFile } from '../../src/server/uploads/service.ts';
import { addPeople, coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
let editor: Actor;
beforeAll(async () => {
  ({ db } = await freshDatabase('from_file'));
  const [id = 0] = await addPeople(db, 1);
  editor = { id, role: 'editor', moderates: new Set(), mayReach: new Set() };
});
afterAll(() => db.destroy());

const file = (files: FileLink[]): string =>
  announcementFile({
    ...EMPTY_CONTENT,
    title: 'From elsewhere',
    importance: 'important',
    sections: [{ ...emptySection('s1'), document: documentOfMarkdown('Come **today**.'), files }],
  });

describe('a draft from a file', () => {
  it('is what the file says, with what of it is theirs to use, and names what is not', async () => {
    const own = await keepFile(db, editor, Buffer.from('mine'), 'own.txt');
    const theirs = await keepFile(db, coordinator, Buffer.from('not mine'), 'theirs.txt');
    const nowhere = { ...own, key: 'abcdefghijklmnopqrstuv', name: 'nowhere.txt' };
    const text = file([own, theirs, nowhere]);
    const made = await beginFromFile(db, editor, { text });
    expect(made.leftOut).toEqual(['theirs.txt', 'nowhere.txt']);
    const { content } = await openAnnouncement(db, editor, made.id);
    expect(content).toMatchObject({
      title: 'From elsewhere',
      importance: 'important',
      sections: [{ files: [own] }],
    });
    // A coordinator may use what anybody keeps here.
    expect((await beginFromFile(db, coordinator, { text })).leftOut).toEqual(['nowhere.txt']);
  });

  it('is none where the file is none, or for whoever does not work at the desk', async () => {
    const before = await countOf(db, 'FROM announcements');
    await expect(
      beginFromFile(db, editor, { text: '---\ntitle: x\nimportance: loud\n---\nx' }),
    ).rejects.toMatchObject({ status: 422, errors: [{ field: 'importance' }] });
    await expect(
      beginFromFile(db, { ...editor, role: 'member' }, { text: '# x\n\ny' }),
    ).rejects.toMatchObject({ status: 403 });
    expect(await countOf(db, 'FROM announcements')).toBe(before);
  });
});
