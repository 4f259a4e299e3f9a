import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import { openAnnouncement, saveDraft } from '../../src/server/announcements/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { expand, readWorld } from '../../src/server/engine/expand.ts';
import { claimBuckets } from '../../src/server/engine/store.ts';
import { Problem } from '../../src/server/problem.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { sendPage } from '../../src/server/sends/page.ts';
import { takeBack } from '../../src/server/sends/changing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  makeDue,
  plan,
  stateOf,
  toGroups,
} from './world.ts';

let db: Database;
let group: number;
let board: number;
const editor = (mayReach: number[]): Actor => ({
  id: 2,
  role: 'editor',
  moderates: new Set(),
  mayReach: new Set(mayReach),
});

beforeAll(async () => {
  ({ db } = await freshDatabase('sends'));
  const people = await addPeople(db, 12);
  await db('people').where({ id: 2 }).update({ role: 'editor' });
  group = await addGroup(db, 'Keyholders', people.slice(0, 6));
  board = await insertBoard(db, { name: 'Alerts', about: 'Keys.', groupId: null, posting: 'moderators' });
});
afterAll(() => db.destroy());

const draft = (part = {}, text = {}, author = 1): Promise<number> =>
  insertAnnouncement(db, author, content(text), plan({ audience: toGroups([group]), ...part }), 'draft');
const refusal = async (work: Promise<unknown>): Promise<Problem> => {
  const error = await work.then(
    () => undefined,
    (reason: unknown) => reason,
  );
  if (!(error instanceof Problem)) throw new Error(`Not refused: ${String(error)}`);
  return error;
};

describe('a draft', () => {
  it('is not saved over unseen, and the other text is kept when it is saved over on purpose', async () => {
    const id = await draft();
    const first = await saveDraft(db, coordinator, id, {
      content: content({ title: 'Mine' }),
      plan: plan(),
      revision: 1,
      saveOver: false,
    });
    expect(first.revision).toBe(2);
    const problem = await refusal(
      saveDraft(db, coordinator, id, {
        content: content({ title: 'Other tab' }),
        plan: plan(),
        revision: 1,
        saveOver: false,
      }),
    );
    expect(problem.status).toBe(409);
    expect(problem.more).toMatchObject({ revision: 2, savedBy: 'Maud Fenwright' });
    expect((await openAnnouncement(db, coordinator, id)).content.title).toBe('Mine');
    await saveDraft(db, coordinator, id, {
      content: content({ title: 'Other tab' }),
      plan: plan(),
      revision: 2,
      saveOver: true,
    });
    expect((await openAnnouncement(db, coordinator, id)).content.title).toBe('Other tab');
    expect(
      await countOf(
        db,
        "FROM announcement_versions WHERE announcement_id = ? AND kind = 'overwritten' AND title = 'Mine'",
        [id],
      ),
    ).toBe(1);
  });

  it('of somebody else is not there for an editor', async () => {
    const id = await draft();
    expect((await refusal(openAnnouncement(db, editor([group]), id))).status).toBe(404);
    expect((await refusal(confirmSend(db, editor([group]), id, { revision: 1 }, 'key-other'))).status).toBe(
      404,
    );
  });
});

describe('the last question', () => {
  it('answered twice at once, or in two tabs, sends once', async () => {
    const id = await draft();
    const [a, b] = await Promise.all([
      confirmSend(db, coordinator, id, { revision: 1 }, 'double-click'),
      confirmSend(db, coordinator, id, { revision: 1 }, 'double-click'),
    ]);
    expect(a.occurrenceId).toBe(b.occurrenceId);
    const tab = await refusal(confirmSend(db, coordinator, id, { revision: 1 }, 'another-tab'));
    expect(tab.more.occurrenceId).toBe(a.occurrenceId);
    expect(await countOf(db, 'FROM sends WHERE announcement_id = ?', [id])).toBe(1);
  });

  it('is asked again where the text changed after it was read', async () => {
    const id = await draft();
    await saveDraft(db, coordinator, id, {
      content: content(),
      plan: plan({ audience: toGroups([group]) }),
      revision: 1,
      saveOver: false,
    });
    expect((await refusal(confirmSend(db, coordinator, id, { revision: 1 }, 'stale-reading'))).status).toBe(
      409,
    );
  });

  it('names each field that keeps it from going out', async () => {
    const id = await draft(
      { timing: { kind: 'at', wall: '2020-01-01T09:00', zone: 'UTC' } },
      { title: '  ', button: { label: '', url: 'javascript:1' } },
    );
    const problem = await refusal(confirmSend(db, coordinator, id, { revision: 1 }, 'many-faults'));
    expect(problem.errors.map((error) => error.field)).toEqual([
      'title',
      'button.label',
      'button.url',
      'timing.wall',
    ]);
    expect((await openAnnouncement(db, coordinator, id)).state).toBe('draft');
  });

  it('is refused to an editor beyond their groups, on a read-only board, and for everyone', async () => {
    const whole = await draft({ audience: { kind: 'everyone' } }, {}, 2);
    expect(
      (await refusal(confirmSend(db, editor([group]), whole, { revision: 1 }, 'everyone-key'))).status,
    ).toBe(403);
    const onBoard = await draft({ boards: [board] }, {}, 2);
    expect(
      (await refusal(confirmSend(db, editor([group]), onBoard, { revision: 1 }, 'board-key'))).message,
    ).toContain('Alerts');
    const own = await draft({}, {}, 2);
    await expect(
      confirmSend(db, editor([group]), own, { revision: 1 }, 'own-group-key'),
    ).resolves.toHaveProperty('occurrenceId');
  });
});

describe('taking back', () => {
  it('within the hold makes it a draft again, and it can then be sent anew', async () => {
    const id = await draft();
    const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, 'held-1');
    const page = await sendPage(db, coordinator, occurrenceId);
    expect(page.row.state).toBe('scheduled');
    await takeBack(db, coordinator, occurrenceId);
    const again = await openAnnouncement(db, coordinator, id);
    expect(again).toMatchObject({ state: 'draft', revision: 2 });
    const second = await confirmSend(db, coordinator, id, { revision: 2 }, 'held-2');
    expect(second.occurrenceId).not.toBe(occurrenceId);
    expect((await refusal(takeBack(db, coordinator, occurrenceId))).message).toContain('already');
  });

  it('and going out exclude each other, whoever comes first', async () => {
    for (let i = 0; i < 10; i++) {
      const id = await draft();
      const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, `race-${i}-key`);
      await makeDue(db, occurrenceId);
      const claimant = { engine: 'test', seconds: 30 };
      const occurrence = (await occurrenceById(db, occurrenceId))!;
      const [taken] = await Promise.all([
        takeBack(db, coordinator, occurrenceId).then(
          () => true,
          () => false,
        ),
        claimBuckets(db, claimant, 50).then(async (claimed) => {
          const bucket = claimed.find((each) => each.occurrenceId === occurrenceId);
          if (bucket) await expand(db, bucket, occurrence, claimant, await readWorld(db));
        }),
      ]);
      const delivered = await countOf(db, 'FROM deliveries WHERE occurrence_id = ?', [occurrenceId]);
      expect(delivered > 0).toBe(!taken);
      expect(await stateOf(db, occurrenceId)).toBe(taken ? 'recalled' : 'going out');
    }
  });
});
