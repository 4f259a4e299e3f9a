import { randomBytes } from 'node:crypto';
import type { z } from 'zod';
import { automationSchema } from '../../core/automation/automation.ts';
import { boardChangeSchema, newBoardSchema } from '../../core/boards/boardSchemas.ts';
import { BOARD_SETTINGS, type BoardSetting } from '../../core/boards/switches.ts';
import { contentProblems } from '../../core/content/announcement.ts';
import type { GroupWays } from '../../core/groups/group.ts';
import { groupChangeSchema, newGroupSchema } from '../../core/groups/schemas.ts';
import {
  partName,
  PATTERN_WORDS,
  withAspects,
  type PartOf,
  type PatternPart,
} from '../../core/patterns/pattern.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { sheetRightsSchema } from '../../core/sheets/sheet.ts';
import { sheetSchema, type SheetColumn } from '../../core/sheets/sheet.ts';
import { makeAutomation, publish, saveDraft } from '../automations/service.ts';
import { shareAutomation } from '../automations/sharing.ts';
import { automationById } from '../automations/store.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { makeBoard, placeLinks, changeBoardSettings } from '../boards/settings.ts';
import { visibleBoard } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { addMembers, alterGroup, makeGroup } from '../groups/making.ts';
import { setOwner } from '../groups/ownerStore.ts';
import { setWaysOfGroup } from '../groups/wayStore.ts';
import { pin } from '../posts/pinning.ts';
import { putUp } from '../posts/puttingUp.ts';
import { announcementOf, editPost, postById } from '../posts/store.ts';
import { notFound, Problem } from '../problem.ts';
import { makeUnfindable } from '../search/indexStore.ts';
import { setRights } from '../sheets/rights.ts';
import { peopleOfSheet } from '../sheets/rightsStore.ts';
import { alterSheet, makeSheet } from '../sheets/service.ts';
import { sheetById } from '../sheets/store.ts';

/** With whose rights parts are made, and who looks after them. */
export interface Making {
  trx: Database;
  actor: Actor;
  owner: Actor;
}

const waysOf = ({
  about,
  needsClearance,
  bundling,
  joining,
  ownerBrings,
  callable,
}: GroupWays): GroupWays => ({
  about,
  needsClearance,
  bundling,
  joining,
  ownerBrings,
  callable,
});

/** What a part would be, looked at as if somebody had written it. @throws 422 that names the part */
function checked<S extends z.ZodType>(schema: S, part: PatternPart, value: unknown): z.output<S> {
  const read = schema.safeParse(value);
  if (read.success) return read.data;
  const said = read.error.issues[0]?.message ?? 'It is not as it should be';
  throw new Problem(
    422,
    `The ${PATTERN_WORDS[part.kind].one} “${partName(part)}”: ${said.replace(/\.$/, '')}.`,
  );
}

/** What of a board is set besides its name, its place and its links. */
const settingsOf = (part: PartOf<'board'>): Partial<BoardSetting> =>
  Object.fromEntries(Object.entries(part).filter(([field]) => field in BOARD_SETTINGS));

/** Makes a part, whose ids are those of here, and gives the id of what is made. @throws 422 with what keeps it from being made */
export async function makePart({ trx, actor, owner }: Making, part: PatternPart): Promise<number> {
  switch (part.kind) {
    case 'group': {
      const { name, rule } = checked(newGroupSchema, part, { name: part.name, rule: part.rule });
      const id = await makeGroup(trx, actor, { name, rule });
      await setWaysOfGroup(trx, id, waysOf(part));
      await setOwner(trx, id, owner.id, true);
      if (rule === null) await addMembers(trx, actor, id, { ids: [owner.id], lines: [] });
      return id;
    }
    case 'sheet': {
      const { name, purpose, columns, form } = part;
      const id = await makeSheet(trx, actor, checked(sheetSchema, part, { name, purpose, columns, form }));
      if (part.seenBy === 'named') await setRights(trx, actor, id, namedAlone(owner));
      return id;
    }
    case 'board': {
      const { name, about, groupId } = part;
      const id = await makeBoard(
        trx,
        actor,
        checked(newBoardSchema, part, { name, about, groupId, purpose: 'news' }),
      );
      await changeBoardSettings(trx, actor, id, {
        ...checked(boardChangeSchema, part, settingsOf(part)),
        ownerId: owner.id,
      });
      if (part.links.length > 0) await placeLinks(trx, actor, id, part.links);
      return id;
    }
    case 'pin': {
      const [problem] = contentProblems(part.content);
      if (problem) throw new Problem(422, `The pinned post “${partName(part)}”: ${problem.detail}`);
      const board = await visibleBoard(trx, actor, part.boardId);
      const key = `pattern ${randomBytes(12).toString('base64url')}`;
      const { id } = await putUp(trx, actor, board, part.content, { key, held: false });
      await pin(trx, actor, id, { pinned: true, until: null, replaces: null }, 'UTC');
      return id;
    }
    case 'automation': {
      const automation = checked(automationSchema, part, part.automation);
      const id = await makeAutomation(trx, actor, { automation });
      if (owner.id !== actor.id && owner.role === 'editor')
        await shareAutomation(trx, actor, id, { people: [owner.id] });
      return id;
    }
  }
}

/** A sheet that is for those named is for coordinators and whoever looks after the place, where they are at the desk. */
const namedAlone = (owner: Actor): z.infer<typeof sheetRightsSchema> => ({
  seenBy: 'named',
  people: owner.role === 'editor' ? [{ id: owner.id, mayChange: true }] : [],
});

/** Key links of here that the pattern did not bring, after those it brings now. */
const linksWith = (
  here: PartOf<'board'>,
  before: PartOf<'board'>,
  now: PartOf<'board'>,
): { label: string; url: string }[] => {
  const known = new Set([...before.links, ...now.links].map(({ label, url }) => `${label}\n${url}`));
  return [...now.links, ...here.links.filter(({ label, url }) => !known.has(`${label}\n${url}`))];
};

/** The columns the pattern has now, and those that were added here; none is taken out. */
function columnsWith(
  here: PartOf<'sheet'>,
  before: PartOf<'sheet'>,
  now: PartOf<'sheet'>,
  lastColumn: number,
): SheetColumn[] {
  const was = new Set(before.columns.map(({ id }) => id));
  const is = new Set(now.columns.map(({ id }) => id));
  const both = here.columns.find(
    (column) =>
      is.has(column.id) &&
      !was.has(column.id) &&
      !now.columns.some(
        ({ id, name, kind }) => id === column.id && name === column.name && kind === column.kind,
      ),
  );
  if (both)
    throw new Problem(
      409,
      `The record sheet “${here.name}” has a column “${both.name}” of its own in the place of one that the pattern brings. Add that one by hand.`,
    );
  const known = new Set(here.columns.map(({ id }) => id));
  const used = now.columns.find(({ id }) => !known.has(id) && Number(id.slice(1)) <= lastColumn);
  if (used)
    throw new Problem(
      409,
      `The record sheet “${here.name}” has had a column in the place of “${used.name}”, which was taken out. Add “${used.name}” by hand.`,
    );
  return [...now.columns, ...here.columns.filter(({ id }) => !is.has(id))];
}

/**
 * Changes what was made of a part to what the pattern says now, in some of its aspects; what is of this place alone stays.
 *
 * @param here as it is now; `before` as the pattern made it, `now` as it would make it today
 */
export async function changePart(
  { trx, actor }: Pick<Making, 'trx' | 'actor'>,
  here: PatternPart,
  before: PatternPart,
  now: PatternPart,
  aspects: readonly string[],
): Promise<void> {
  const { id } = here;
  const after = withAspects(here, now, aspects);
  const has = (...some: string[]): boolean => some.some((aspect) => aspects.includes(aspect));
  if (after.kind === 'group') {
    if (has('name', 'rule'))
      await alterGroup(
        trx,
        actor,
        id,
        checked(groupChangeSchema, now, {
          ...(has('name') ? { name: after.name } : {}),
          ...(has('rule') && after.rule ? { rule: after.rule } : {}),
        }),
      );
    await setWaysOfGroup(trx, id, waysOf(after));
    await emit(trx, 'group.changed', { group: id });
  } else if (after.kind === 'board' && here.kind === 'board' && before.kind === 'board') {
    const others = Object.fromEntries(
      Object.entries(after).filter(([aspect]) => aspects.includes(aspect) && aspect !== 'links'),
    );
    if (Object.keys(others).length > 0)
      await changeBoardSettings(trx, actor, id, checked(boardChangeSchema, now, others));
    if (has('links') && now.kind === 'board') await placeLinks(trx, actor, id, linksWith(here, before, now));
  } else if (
    after.kind === 'sheet' &&
    here.kind === 'sheet' &&
    before.kind === 'sheet' &&
    now.kind === 'sheet'
  ) {
    const sheet = await sheetById(trx, id);
    if (!sheet) throw notFound('record sheet');
    const columns = has('columns') ? columnsWith(here, before, now, sheet.lastColumn) : here.columns;
    const { name, purpose, form } = after;
    await alterSheet(trx, actor, id, {
      revision: sheet.revision,
      shape: checked(sheetSchema, now, { name, purpose, form, columns }),
    });
    if (has('seenBy'))
      await setRights(trx, actor, id, { seenBy: after.seenBy, people: await peopleOfSheet(trx, id) });
  } else if (after.kind === 'pin') {
    const post = await postById(trx, id);
    if (!post) throw notFound('post');
    const announcement = await announcementOf(trx, post.versionId);
    const versionId = await freezeVersion(trx, announcement, actor.id, after.content, 'sent');
    if (!(await editPost(trx, id, versionId, 'up', 'up')))
      throw new Problem(409, `The pinned post “${partName(here)}” was taken down meanwhile.`);
    await makeUnfindable(trx, 'post', id);
    await emit(trx, 'post.changed', { post: id, board: post.boardId });
  } else if (after.kind === 'automation') {
    const found = await automationById(trx, id);
    if (!found) throw notFound('automation');
    const automation = checked(automationSchema, now, after.automation);
    const revision = await saveDraft(trx, actor, id, { revision: found.revision, automation });
    if (found.live !== null && found.state === 'on') await publish(trx, actor, id, revision);
  }
}
