import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newAutomation, type Automation } from '../../src/core/automation/automation.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { takeOut } from '../../src/core/automation/taken.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { openAutomation } from '../../src/server/automations/page.ts';
import { replay } from '../../src/server/automations/replay.ts';
import { listRuns } from '../../src/server/automations/runs.ts';
import {
  copyAutomation,
  deleteAutomation,
  listAutomations,
  makeAutomation,
  publish,
  saveDraft,
  switchAutomation,
} from '../../src/server/automations/service.ts';
import { shareAutomation } from '../../src/server/automations/sharing.ts';
import { tryAutomation } from '../../src/server/automations/trial.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { setRights } from '../../src/server/sheets/rights.ts';
import { addRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { serveUpload } from '../../src/server/uploads/serving.ts';
import { keepImage } from '../../src/server/uploads/service.ts';
import { actIn, says } from './automating.ts';
import { addGroup, addPeople, coordinator, freshDatabase, refusal, SECRET } from './world.ts';

let db: Database;
let owner: Actor;
let named: Actor;
let stranger: Actor;
let member: number;
let mine: number;
let theirs: number;
const asking = { secret: SECRET, inside: [] };
beforeAll(async () => {
  ({ db } = await freshDatabase('automation_sharing'));
  const people = (await addPeople(db, 4)) as [number, number, number, number];
  await db('people').whereIn('id', people.slice(0, 3)).update({ role: 'editor' });
  mine = await addGroup(db, 'Those of both', people);
  theirs = await addGroup(db, 'Those of the owner', people);
  const editor = (id: number, groups: number[]): Actor => ({
    ...coordinator,
    id,
    role: 'editor',
    mayReach: new Set(groups),
  });
  owner = editor(people[0], [mine, theirs]);
  named = editor(people[1], [mine]);
  stranger = editor(people[2], [mine]);
  member = people[3];
  for (const { id, mayReach } of [owner, named, stranger])
    for (const group of mayReach) await db('editor_reach').insert({ person_id: id, group_id: group });
});
afterAll(() => db.destroy());

const telling = (groupId: number): Automation => ({
  ...newAutomation('Shared', {
    kind: 'schedule',
    start: '2027-11-29T09:00',
    zone: 'UTC',
    rule: WEEKLY,
    sheetId: null,
  }),
  content: says('Keys', 'Bring them back.'),
  tell: {
    to: { kind: 'audience', audience: { kind: 'group', id: groupId } },
    boards: [],
    outside: [],
    boardField: null,
    mail: false,
    otherwise: null,
  },
});
async function shared(automation: Automation): Promise<number> {
  const id = await makeAutomation(db, owner, { automation });
  await shareAutomation(db, owner, id, { people: [named.id] });
  return id;
}

describe('who else may change an automation', () => {
  it('writes it, puts it to work and switches it; does not delete it nor say who else may', async () => {
    const id = await shared(telling(mine));
    expect((await listAutomations(db, named)).map((each) => each.id)).toContain(id);
    expect((await listAutomations(db, stranger)).map((each) => each.id)).not.toContain(id);
    expect(await openAutomation(db, named, id)).toMatchObject({
      isOwner: false,
      isTheirs: false,
      people: [{ id: named.id }],
    });
    const revision = await saveDraft(db, named, id, {
      revision: 1,
      automation: { ...telling(mine), name: 'Written by another' },
    });
    expect(await publish(db, named, id, revision)).toEqual({ version: 1 });
    await switchAutomation(db, named, id, false);
    await switchAutomation(db, named, id, true);
    await actIn(db);
    const wanted = { automationId: id, states: [], before: null };
    expect((await listRuns(db, named, wanted)).runs).toBeInstanceOf(Array);
    await switchAutomation(db, named, id, false);
    for (const refused of [
      () => deleteAutomation(db, named, id),
      () => shareAutomation(db, named, id, { people: [] }),
    ])
      expect((await refusal(refused())).status).toBe(403);
    for (const unseen of [
      () => openAutomation(db, stranger, id),
      () => saveDraft(db, stranger, id, { revision, automation: telling(mine) }),
      () => listRuns(db, stranger, wanted),
      () => shareAutomation(db, stranger, id, { people: [stranger.id] }),
    ])
      expect((await refusal(unseen())).status).toBe(404);
    expect(await refusal(shareAutomation(db, owner, id, { people: [member] }))).toMatchObject({
      status: 422,
      errors: [{ field: 'people.0' }],
    });
    // Taken out again, it is not there for them.
    await shareAutomation(db, owner, id, { people: [] });
    expect((await refusal(openAutomation(db, named, id))).status).toBe(404);
    await deleteAutomation(db, owner, id);
  });

  it('puts to work no more than they may do themselves, and reads by it no more than they see', async () => {
    const id = await shared(telling(theirs));
    expect((await refusal(publish(db, named, id, 1))).errors.map(({ field }) => field)).toContain('tell');
    expect(await publish(db, owner, id, 1)).toEqual({ version: 1 });

    const sheet = await makeSheet(db, coordinator, {
      name: 'Alarm codes',
      purpose: '',
      columns: [{ id: 'c1', name: 'Code', kind: 'text', unit: '', choices: [] }],
      form: null,
    });
    await addRecord(db, coordinator, sheet, { c1: '7731' });
    await setRights(db, coordinator, sheet, {
      seenBy: 'named',
      people: [{ id: owner.id, mayChange: false }],
    });
    const reading: Automation = {
      ...newAutomation('Reads', { kind: 'meets', sheetId: sheet, again: false }),
      content: says('The code is {Code|unknown}', 'x'),
      tell: telling(mine).tell,
    };
    const input = { automation: reading, personId: null, recordId: null };
    expect(JSON.stringify(await tryAutomation(db, owner, id, input, asking))).toContain('7731');
    const tried = await tryAutomation(db, named, id, input, asking);
    expect(tried.problem).toMatch(/may not see/);
    expect(JSON.stringify(tried)).not.toContain('7731');
    expect((await refusal(replay(db, named, id, reading))).status).toBe(403);
    // None is looked into by its number; what the owner chose may stay.
    for (const guessed of [
      () => saveDraft(db, named, id, { revision: 1, automation: reading }),
      () => makeAutomation(db, named, { automation: reading }),
    ])
      expect(await refusal(guessed())).toMatchObject({ status: 422, errors: [{ field: 'when' }] });
    await saveDraft(db, owner, id, { revision: 1, automation: reading });
    const revision = await saveDraft(db, named, id, { revision: 2, automation: reading });
    expect((await refusal(publish(db, named, id, revision))).errors.map(({ field }) => field)).toContain(
      'when',
    );
  });

  it('sees the pictures in it, and nobody else does; nor does a text take the pictures of others', async () => {
    const picture = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#1c6b60' } })
      .png()
      .toBuffer();
    const { key } = await keepImage(db, owner, picture, 'door.png');
    const pictured = (automation: Automation): Automation => ({
      ...automation,
      content: {
        ...automation.content,
        sections: automation.content.sections.map((section) => ({
          ...section,
          image: { key, alt: 'A door', placement: 'whole', focus: { x: 50, y: 50 }, width: 40, height: 30 },
        })),
      },
    });
    const id = await shared(pictured(telling(mine)));
    const read = (actor: Actor, automation: number | null) =>
      serveUpload(db, { actor, signed: null, draft: null, automation }, key, 'whole.webp');
    expect((await read(named, id)).mime).toBe('image/webp');
    expect((await refusal(read(named, null))).status).toBe(404);
    expect((await refusal(read(stranger, id))).status).toBe(404);
    const other = await makeAutomation(db, stranger, { automation: telling(mine) });
    expect((await refusal(read(stranger, other))).status).toBe(404);
    for (const taken of [
      () => makeAutomation(db, stranger, { automation: pictured(telling(mine)) }),
      () => saveDraft(db, stranger, other, { revision: 1, automation: pictured(telling(mine)) }),
    ])
      expect((await refusal(taken())).status).toBe(422);
    // A file of it takes no picture along, that would be nobody’s elsewhere.
    expect(takeOut(pictured(telling(mine)))).not.toContain(key);
    // What stood there before may stay, whoever writes on.
    expect(await saveDraft(db, named, id, { revision: 1, automation: pictured(telling(mine)) })).toBe(2);
    const copy = await copyAutomation(db, named, id);
    expect((await read(named, copy)).mime).toBe('image/webp');
    const shown = await tryAutomation(
      db,
      named,
      id,
      { automation: pictured(telling(mine)), personId: null, recordId: null },
      asking,
    );
    expect(shown.sayings[0]?.html).toContain(`/files/${key}/`);
    expect(shown.sayings[0]?.html).toContain(`automation=${id}`);
  });
});
