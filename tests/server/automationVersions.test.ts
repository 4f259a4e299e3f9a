import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newAutomation, type Automation } from '../../src/core/automation/automation.ts';
import type { Change } from '../../src/core/content/change.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { makeAutomation, publish, saveDraft } from '../../src/server/automations/service.ts';
import { automationById } from '../../src/server/automations/store.ts';
import { automationVersion } from '../../src/server/automations/versions.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { field, says } from './automating.ts';
import { addGroup, addPeople, coordinator, freshDatabase, refusal } from './world.ts';

let db: Database;
let group: number;
beforeAll(async () => {
  ({ db } = await freshDatabase('automation_versions'));
  group = await addGroup(db, 'Sant Elm', []);
});
afterAll(() => db.destroy());

const of = (changes: readonly Change[], ...kinds: Change['kind'][]): string =>
  changes
    .filter(({ kind }) => kinds.includes(kind))
    .map(({ text }) => text)
    .join('');

describe('versions of an automation', () => {
  it('tell word by word what changed in each, and since, as what they name is called now', async () => {
    const begun: Automation = {
      ...newAutomation('Welcome', { kind: 'joins', groupId: group }),
      content: says('Welcome to the station', 'Good to have you, ', field('person.first name', 'friend')),
    };
    const id = await makeAutomation(db, coordinator, { name: begun.name, when: begun.when });
    let revision = 1;
    const put = async (automation: Automation): Promise<void> => {
      revision = await saveDraft(db, coordinator, id, { revision, automation });
      await publish(db, coordinator, id, revision);
    };
    await put({ ...begun, tell: { ...begun.tell, to: { kind: 'person' } } });
    const second: Automation = {
      ...begun,
      tell: { ...begun.tell, to: { kind: 'person' } },
      content: says('Welcome to Sant Elm', 'Glad to have you, ', field('person.first name', 'friend')),
      ceiling: 20,
    };
    await put(second);
    await db('groups').where({ id: group }).update({ name: 'Sant Elm station' });
    await saveDraft(db, coordinator, id, {
      revision,
      automation: { ...second, due: { kind: 'hour', time: '08:30' } },
    });

    const first = await automationVersion(db, coordinator, id, 1);
    // All of the first is new, and what is written now differs from it in all that came after.
    expect(of(first.since, 'same', 'out')).toBe('');
    expect(of(first.since, 'in')).toContain('When somebody comes into Sant Elm station');
    const { since, until, automation } = await automationVersion(db, coordinator, id, 2);
    expect(automation).toEqual(second);
    expect(of(since, 'out')).toMatch(/station[^]*Good[^]*60/);
    expect(of(since, 'in')).toMatch(/Elm[^]*Glad[^]*20/);
    expect(of(since, 'same')).toContain('{their first name|friend}');
    expect([of(until, 'out').trim(), of(until, 'in').trim()]).toEqual([
      expect.stringContaining('once') as unknown,
      expect.stringContaining('08:30') as unknown,
    ]);
    // What is written now is not it; it would be, were it put back.
    expect((await automationVersion(db, coordinator, id, 2)).same).toBe(false);
    const now = await automationById(db, id);
    await saveDraft(db, coordinator, id, { revision: now!.revision, automation: second });
    expect((await automationVersion(db, coordinator, id, 2)).same).toBe(true);
    // Nothing of either text is lost, however it is told.
    expect(of(since, 'same', 'in')).toBe(of(until, 'same', 'out'));
  });

  it('are for whom the automation is, and not there where there is none of the number', async () => {
    const id = await makeAutomation(
      db,
      coordinator,
      newAutomation('Quiet', { kind: 'joins', groupId: group }),
    );
    expect((await refusal(automationVersion(db, coordinator, id, 1))).status).toBe(404);
    const [other] = await addPeople(db, 1);
    const editor: Actor = { ...coordinator, id: other!, role: 'editor' };
    expect((await refusal(automationVersion(db, editor, id, 1))).message).toContain('automation');
  });
});
