import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { sheetOf } from '../../src/core/automation/automation.ts';
import { automationSentence, automationText } from '../../src/core/automation/words.ts';
import { sameName, type Part, type PartsLook } from '../../src/core/organisation/parts.ts';
import type { PartsChoice } from '../../src/core/organisation/partsSchema.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { fieldsFor } from '../../src/server/automations/fields.ts';
import { readingNames } from '../../src/server/automations/naming.ts';
import { allAutomations } from '../../src/server/automations/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { allGroups } from '../../src/server/groups/store.ts';
import { isIn } from '../../src/server/audience/store.ts';
import { importLines, importSummary } from '../../src/server/imports/service.ts';
import { organisationArchive } from '../../src/server/organisation/takingOut.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { makeSession } from '../../src/server/calendar/making.ts';
import { bringInParts, listOfPeople, lookIntoParts } from '../../src/server/organisation/parts/service.ts';
import { coordinator, countOf, copiedDemo, freshDatabase, refusal } from './world.ts';

let there: Database;
let here: Database;
let folder = '';
let path = '';

/** Those of a group, by their mail addresses. */
async function mailsIn(db: Database, name: string): Promise<string[]> {
  const [group] = (await allGroups(db)).filter((each) => each.name === name);
  if (!group) return [];
  const who = isIn({ kind: 'group', id: group.id }, await audienceContext(db));
  const found = await rows<{ mail: string }>(
    db,
    `SELECT p.mail FROM people p WHERE (${who.sql}) AND p.mail IS NOT NULL`,
    [...who.bindings],
  );
  return found.map(({ mail }) => mail).sort();
}
const look = (actor: Actor = coordinator): Promise<PartsLook> => lookIntoParts(here, actor, path);
const part = async (kind: string, name: string): Promise<Part> => {
  const found = (await look()).parts.find((each) => each.kind === kind && each.name === name);
  if (!found) throw new Error(`There is no ${kind} ${name} in the archive`);
  return found;
};
const choice = (parts: readonly Part[], beside = false): PartsChoice => ({
  parts: parts.flatMap(({ key, state }) => (state === 'same' ? [] : [{ key, state, beside }])),
});
const bring = (parts: readonly Part[], beside = false) =>
  bringInParts(here, coordinator, path, choice(parts, beside));

beforeAll(async () => {
  ({ db: there } = await copiedDemo('parts_there'));
  folder = await mkdtemp(join(tmpdir(), 'parts-'));
  path = join(folder, 'whole.zip');
  const { body } = await organisationArchive(there, coordinator, 'https://desk.example');
  await pipeline(Readable.fromWeb(body as never), createWriteStream(path));
  // Another organisation with the same people under other ids, and stations of the same names.
  here = (await freshDatabase('parts_here')).db;
  const stations = await rows<{ name: string; zone: string }>(
    there,
    'SELECT name, zone FROM stations ORDER BY id DESC',
  );
  await here('stations').insert(stations.map((station, at) => ({ id: 100 + at, ...station })));
  await here.raw("UPDATE people SET mail = 'first@hillside.example' WHERE id = 1");
  const people = await rows<Record<string, unknown>>(
    there,
    `SELECT p.name, p.mail, p.role, p.standing, s.name AS station, p.occupation, p.zone, p.joined_on FROM people p
       LEFT JOIN stations s ON s.id = p.station_id WHERE p.mail IS NOT NULL AND p.linked_to IS NULL ORDER BY p.id DESC`,
  );
  const idOf = new Map(
    (await rows<{ id: number; name: string }>(here, 'SELECT id, name FROM stations')).map(({ id, name }) => [
      name,
      id,
    ]),
  );
  await here.batchInsert(
    'people',
    people.map(({ station, ...person }, at) => ({
      ...person,
      id: 1_000 + at,
      station_id: idOf.get(String(station)) ?? null,
    })),
    100,
  );
}, 240_000);
afterAll(async () => {
  await Promise.all([there.destroy(), here.destroy(), rm(folder, { recursive: true })]);
});

describe('parts of an organisation brought into another', () => {
  it('are new where nothing of their names is here, and those stuck that name what is nowhere', async () => {
    const { organisation, parts } = await look();
    expect(organisation).toMatch(/Thistledown/);
    expect(parts.filter(({ kind }) => kind === 'group')).toHaveLength(
      await countOf(there, 'FROM `groups` WHERE archived_at IS NULL'),
    );
    const stuck = parts.filter(({ state }) => state === 'clash');
    expect(stuck.every(({ why, beside }) => why.join().includes('not here') && beside === null)).toBe(true);
    expect(stuck.map(({ why }) => why.join()).join()).toMatch(
      /the session “Thursday exchange”, which is not here/,
    );
    expect(stuck.map(({ why }) => why.join()).join()).toMatch(/the source “/);
    expect(parts.filter(({ state }) => state === 'new').length).toBeGreaterThan(30);
  });

  it('are refused where one names what is neither chosen nor here, and nothing comes in', async () => {
    const { parts } = await look();
    const needing = parts.find(
      ({ kind, needs, state }) => kind === 'board' && state === 'new' && needs.length > 0,
    );
    const refused = await refusal(bring(needing ? [needing] : []));
    expect([refused.status, refused.message]).toEqual([422, expect.stringMatching(/Choose it too/)]);
    expect(await countOf(here, 'FROM boards')).toBe(0);
    const editor: Actor = { ...coordinator, role: 'editor' };
    expect((await refusal(look(editor))).status).toBe(403);
    expect((await refusal(bringInParts(here, editor, path, choice(parts)))).status).toBe(403);
    expect((await refusal(listOfPeople(here, editor, path))).status).toBe(403);
  });

  it('come in with what they name, found by name and by mail address, and are the same then', async () => {
    const fresh = (await look()).parts.filter(({ state }) => state === 'new');
    const brought = await bring(fresh);
    expect(brought).toHaveLength(fresh.length);
    for (const { name } of fresh.filter(({ kind }) => kind === 'group'))
      expect([name, await mailsIn(here, name)]).toEqual([name, await mailsIn(there, name)]);
    const boards = (db: Database) =>
      rows(
        db,
        `SELECT b.name, b.about, g.name AS \`group\`, b.posting, b.replying, b.reacting, b.pinning, b.passing, b.section_limit, b.pin_limit,
           o.mail AS owner, (SELECT GROUP_CONCAT(p.mail ORDER BY p.mail) FROM board_moderators m JOIN people p ON p.id = m.person_id WHERE m.board_id = b.id) AS moderators,
           (SELECT GROUP_CONCAT(l.label ORDER BY l.place, l.id) FROM board_links l WHERE l.board_id = b.id) AS links
         FROM boards b LEFT JOIN \`groups\` g ON g.id = b.group_id LEFT JOIN people o ON o.id = b.owner_id
         WHERE b.name IN (SELECT name FROM (SELECT name FROM boards WHERE session_of IS NULL AND date_of IS NULL AND archived_at IS NULL) n) AND b.session_of IS NULL AND b.date_of IS NULL ORDER BY b.name`,
      );
    expect(await boards(here)).toEqual(await boards(there));
    const cells = (db: Database) =>
      rows<{ name: string; cells: string; n: number }>(
        db,
        'SELECT s.name, r.cells, COUNT(*) AS n FROM records r JOIN sheets s ON s.id = r.sheet_id GROUP BY s.name, r.cells ORDER BY s.name, r.cells',
      );
    const canonical = async (db: Database) =>
      (await cells(db))
        .map((row) =>
          JSON.stringify([
            row.name,
            Object.entries(JSON.parse(row.cells) as Record<string, string>)
              .map(([id, value]) => `${id} ${Number(value) || value}`)
              .sort(),
            row.n,
          ]),
        )
        .sort();
    expect(await canonical(here)).toEqual(await canonical(there));
    const sentences = async (db: Database) => {
      const all = (await allAutomations(db)).map(({ draft }) => draft);
      const names = await readingNames(db, coordinator, all);
      return new Map(
        await Promise.all(
          all.map(async (draft) => {
            const { fields } = await fieldsFor(db, draft);
            return [draft.name, automationText(automationSentence(draft, fields, names))] as const;
          }),
        ),
      );
    };
    const [said, wanted] = [await sentences(here), await sentences(there)];
    expect(said.size).toBeGreaterThan(4);
    for (const [name, words] of said) expect([name, words]).toEqual([name, wanted.get(name)]);
    expect(await countOf(here, "FROM automations WHERE state <> 'off'")).toBe(0);
    const again = await look();
    const keys = new Set(fresh.map(({ key }) => key));
    expect(again.parts.filter(({ key, state }) => keys.has(key) && state !== 'same')).toEqual([]);
    const templatesOf = (db: Database) =>
      rows<{ title: string }>(
        db,
        "SELECT JSON_VALUE(content, '$.title') AS title, JSON_EXTRACT(content, '$.sections[*].document') AS text FROM announcements WHERE state = 'template' ORDER BY title",
      );
    expect((await templatesOf(here)).length).toBeGreaterThan(0);
    expect(await templatesOf(here)).toEqual(
      (await templatesOf(there)).filter(({ title }) =>
        fresh.some((each) => each.kind === 'template' && each.name === title),
      ),
    );
    // What looks like an announcement is none: nobody is told of any of it.
    expect(await countOf(here, 'FROM sends')).toBe(0);
  });

  it('are changed where they are other here: told what of them, and made the same, nobody and nothing taken out', async () => {
    const [keyholders] = await rows<{ id: number; name: string }>(
      here,
      "SELECT g.id, g.name FROM `groups` g JOIN group_members m ON m.group_id = g.id WHERE g.kind = 'fixed' GROUP BY g.id HAVING COUNT(*) > 3 LIMIT 1",
    );
    const group = keyholders?.name ?? '';
    await here.raw('DELETE FROM group_members WHERE group_id = ? ORDER BY person_id LIMIT 2', [
      keyholders?.id ?? 0,
    ]);
    await here('group_members').insert({ group_id: keyholders?.id, person_id: 1 });
    await here.raw(
      "UPDATE boards SET replying = 'nobody', about = 'Something else' WHERE name = 'All stations'",
    );
    const [sheet] = await rows<{ id: number; name: string }>(
      here,
      'SELECT s.id, s.name FROM sheets s JOIN records r ON r.sheet_id = s.id GROUP BY s.id ORDER BY COUNT(*) DESC LIMIT 1',
    );
    const records = await countOf(here, 'FROM records WHERE sheet_id = ?', [sheet?.id]);
    await here.raw('DELETE FROM records WHERE sheet_id = ? ORDER BY id LIMIT 3', [sheet?.id ?? 0]);
    const changed = [
      await part('group', group),
      await part('board', 'All stations'),
      await part('sheet', sheet?.name ?? ''),
    ];
    expect(changed.map(({ state }) => state)).toEqual(['changed', 'changed', 'changed']);
    expect(changed[0]?.says).toContain('2 people more');
    expect(changed[1]?.says).toContain('what it is for');
    expect(changed[2]?.says).toContain('3 more records');
    await bring(changed);
    const after = [
      await part('group', group),
      await part('board', 'All stations'),
      await part('sheet', sheet?.name ?? ''),
    ];
    expect(after.map(({ state }) => state)).toEqual(['same', 'same', 'same']);
    expect(await mailsIn(here, group)).toEqual(
      [...(await mailsIn(there, group)), 'first@hillside.example'].sort(),
    );
    expect(await countOf(here, 'FROM records WHERE sheet_id = ?', [sheet?.id])).toBe(records);
  });

  it('clash where one of their name is of another kind or archived, and come in beside it', async () => {
    const fixed = (await allGroups(here)).find(({ kind }) => kind === 'fixed');
    const name = fixed?.name ?? '';
    await here('groups')
      .where({ id: fixed?.id })
      .update({ archived_at: here.raw('NOW(3)') });
    const clashing = await part('group', name);
    expect([clashing.state, clashing.beside]).toEqual(['clash', `${name} (2)`]);
    const refused = await refusal(bring([clashing]));
    expect([refused.status, refused.message]).toEqual([422, expect.stringMatching(/archived here/)]);
    await bring([clashing], true);
    expect((await mailsIn(here, `${name} (2)`)).length).toBeGreaterThan(0);
    await here('groups').where({ id: fixed?.id }).update({ archived_at: null });
  });

  it('keep an automation reading the columns it read, where its sheet has them under other ids', async () => {
    const reads = async (db: Database, name: string): Promise<string> => {
      const found = (await allAutomations(db)).find(({ draft }) => draft.name === name);
      if (!found) return '';
      const names = await readingNames(db, coordinator, [found.draft]);
      const { fields } = await fieldsFor(db, found.draft);
      return automationText(automationSentence(found.draft, fields, names));
    };
    const [sheet] = await rows<{ id: number; name: string; columns: string }>(
      here,
      "SELECT id, name, columns FROM sheets WHERE name = 'Seed loans requested'",
    );
    const reading = (await allAutomations(here)).filter(({ draft }) => sheetOf(draft.when) === sheet?.id);
    let name = '';
    for (const { draft } of reading) if (/Curator/.test(await reads(there, draft.name))) name = draft.name;
    expect(name).not.toBe('');
    for (const { id } of reading) await here('automations').where({ id }).delete();
    // The same sheet, its columns turned round, without the one that names whom it tells.
    const columns = (JSON.parse(sheet?.columns ?? '[]') as { id: string; name: string }[])
      .filter((column) => column.name !== 'Curator')
      .toReversed()
      .map((column, at) => ({ ...column, id: `c${at + 1}` }));
    await here('records').where({ sheet_id: sheet?.id }).delete();
    await here('sheets')
      .where({ id: sheet?.id })
      .update({ columns: JSON.stringify(columns), form: null });
    const stuck = await part('automation', name);
    expect([stuck.state, stuck.beside]).toEqual(['clash', null]);
    expect(stuck.why).toEqual([expect.stringMatching(/no column “Curator”.*Bring the sheet in first/)]);
    const changed = await part('sheet', sheet?.name ?? '');
    expect(changed.says).toContain('1 more column: Curator');
    await bring([changed]);
    expect((await part('sheet', sheet?.name ?? '')).state).toBe('same');
    const ready = await part('automation', name);
    expect(ready.state).toBe('new');
    await bring([ready]);
    expect(await reads(here, name)).toBe(await reads(there, name));
    expect((await part('automation', name)).state).toBe('same');
  });

  it('have the same name where the database would take two for one', async () => {
    const pairs = [
      ['Sant Elm', 'SANT ÉLM'],
      ['Straße', 'strasse'],
      ['Núria', 'Nu\u0301ria'],
      ['Ａ１', 'a1'],
      ['a b', 'a  b'],
      ['Loans', 'Loan'],
      ['Ångström', 'angstrom'],
      ['vault', 'vault '],
    ] as const;
    for (const [a, b] of pairs) {
      const [row] = await rows<{ same: number }>(
        here,
        'SELECT CONVERT(? USING utf8mb4) COLLATE utf8mb4_unicode_520_ci = CONVERT(? USING utf8mb4) COLLATE utf8mb4_unicode_520_ci AS same',
        [a, b],
      );
      expect([a, b, sameName(a) === sameName(b)]).toEqual([a, b, row?.same === 1]);
    }
  });

  it('are not brought in where they are something else than they were shown as', async () => {
    await here.raw("UPDATE boards SET about = 'Something else again' WHERE name = 'All stations'");
    const shown = await part('board', 'All stations');
    await here.raw("UPDATE boards SET archived_at = NOW(3) WHERE name = 'All stations'");
    const refused = await refusal(bring([shown]));
    expect([refused.status, refused.message]).toEqual([409, expect.stringMatching(/Nothing was brought in/)]);
    await here.raw("UPDATE boards SET archived_at = NULL WHERE name = 'All stations'");
  });

  it('has its people compared as a list', async () => {
    await here.raw(
      'DELETE FROM people WHERE id = (SELECT MAX(p.id) FROM (SELECT id FROM people WHERE id NOT IN (SELECT person_id FROM group_members) AND id NOT IN (SELECT person_id FROM board_moderators) AND id NOT IN (SELECT COALESCE(owner_id, 0) FROM boards)) p)',
    );
    const summary = await importSummary(here, coordinator, await listOfPeople(here, coordinator, path));
    expect(summary.counts.new).toBeGreaterThan(0);
    expect(summary.counts.same + summary.counts.changed).toBeGreaterThan(200);
    // Two who have the name of another, and no mail address, are not guessed at.
    const { lines } = await importLines(here, coordinator, summary.id, 'wrong', 0);
    expect(lines.map(({ why }) => why)).toEqual([
      expect.stringMatching(/is about .+ as well/),
      expect.stringMatching(/is about .+ as well/),
    ]);
  });

  it('go with the session here that is called as the one there, and with none where there are two', async () => {
    const exchange = () =>
      makeSession(here, coordinator, {
        title: 'Thursday exchange',
        text: '',
        wall: wallAt(Date.now() + 86_400_000, 'UTC'),
        zone: 'UTC',
        minutes: 30,
        place: '',
        link: '',
        rule: null,
        audience: { kind: 'everyone' },
        capacity: null,
        remindMinutes: null,
      });
    const before = await part('automation', 'Before the Thursday exchange');
    expect([before.state, before.why.join()]).toEqual([
      'clash',
      expect.stringContaining('which is not here'),
    ]);
    const { id } = await exchange();
    const found = await part('automation', 'Before the Thursday exchange');
    expect(found.state).toBe('new');
    await bring([found]);
    const [made] = await rows<{ sessionId: string }>(
      here,
      "SELECT JSON_VALUE(draft, '$.when.sessionId') AS sessionId FROM automations WHERE JSON_VALUE(draft, '$.name') = ?",
      ['Before the Thursday exchange'],
    );
    expect(Number(made?.sessionId)).toBe(id);
    await exchange();
    expect((await part('automation', 'Before the Thursday exchange')).state).toBe('clash');
  });
});
