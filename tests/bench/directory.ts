import { ROWS_AT_ONCE } from '../../src/core/imports/import.ts';
import { readList } from '../../src/core/imports/reading.ts';
import { rawRecord } from '../../src/core/imports/record.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { change, rows, type Database } from '../../src/server/database/connection.ts';
import { GROUPS_COUNTED } from '../../src/core/groups/group.ts';
import { countGroups, groupPage, listGroups } from '../../src/server/groups/making.ts';
import { applyImport, undoImport } from '../../src/server/imports/apply.ts';
import { addRows, beginImport, compareImport } from '../../src/server/imports/service.ts';
import { personForDesk } from '../../src/server/people/page.ts';
import { alterPerson, countListedPeople, listPeople } from '../../src/server/people/service.ts';
import { seconds, sized, timed, times } from './size.ts';

const at = (sorted: readonly number[], share: number): string =>
  `${(sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0).toFixed(1)} ms`;

/**
 * A list of 20,000 brought into a directory of 100,000 and taken back; the list of people and what is sought in it; 500 live groups
 * over it, and what a change of a person costs with them.
 */
export async function directory(db: Database): Promise<void> {
  const [first] = await rows<{ id: number }>(db, 'SELECT MIN(id) AS id FROM people');
  const actor: Actor = { id: first?.id ?? 1, role: 'coordinator', moderates: new Set(), mayReach: new Set() };
  await change(db, "UPDATE people SET role = 'coordinator' WHERE id = ?", [actor.id]);
  await importing(db, actor);
  await listing(db, actor);
  await grouping(db, actor);
}

async function importing(db: Database, actor: Actor): Promise<void> {
  const n = sized(20_000);
  // A quarter are here and change, the rest is new.
  const here = await rows<{ name: string; mail: string }>(
    db,
    'SELECT name, mail FROM people WHERE mail IS NOT NULL ORDER BY id DESC LIMIT ?',
    [Math.floor(n / 4)],
  );
  const lines = Array.from({ length: n }, (_, i) => {
    const known = here[i];
    return `${known?.name ?? `New Person ${i}`},${known?.mail ?? `new${i}@bench.example`},Station ${i % 40},welder,2026-03-0${1 + (i % 9)},B`;
  });
  const file = new TextEncoder().encode(
    `Name,Mail,Station,Occupation,Joined on,Licence\n${lines.join('\n')}\n`,
  );

  const [table, reading] = await timed(async () => Promise.resolve(readList(file)));
  const columns = table.guess.map((column, i) =>
    column === 'nothing' ? (`attribute:${table.headings[i]}` as const) : column,
  );
  const records = table.rows.map((row) => rawRecord(row.cells, columns, row.line));
  const [id, sending] = await timed(async () => {
    const made = await beginImport(db, actor, { fileName: 'bench.csv', columns: {}, dateOrder: 'day first' });
    for (let from = 0; from < records.length; from += ROWS_AT_ONCE)
      await addRows(db, actor, made, records.slice(from, from + ROWS_AT_ONCE));
    return made;
  });
  const [compared, comparing] = await timed(() => compareImport(db, actor, id));
  const [, applying] = await timed(() => applyImport(db, actor, id, compared.digest));
  const [undone, undoing] = await timed(() => undoImport(db, actor, id));
  await db.raw('CREATE TABLE bare LIKE people');
  const [, bare] = await timed(async () => {
    for (let from = 0; from < n; from += 1000)
      await db('bare').insert(
        records.slice(from, from + 1000).map((record) => ({
          name: record.name,
          mail: record.mail ?? null,
          zone: 'UTC',
          joined_on: '2026-03-01',
        })),
      );
  });
  await db.raw('DROP TABLE bare');
  const all = reading + sending + comparing + applying;
  console.log(
    `import of ${n} rows (${compared.counts.new} new, ${compared.counts.changed} changed): ${seconds(all)} in all: ` +
      `read ${seconds(reading)}, sent ${seconds(sending)}, compared ${seconds(comparing)}, brought in ${seconds(applying)}; ` +
      `taken back ${seconds(undoing)} (${undone.removed} gone, ${undone.restored} restored); ` +
      `the bare inserts of as many rows ${seconds(bare)}: ${(all / bare).toFixed(1)} times; aim under 30 s`,
  );
}

async function listing(db: Database, actor: Actor): Promise<void> {
  const [total] = await rows<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  const round = times(30);
  const n = total?.n ?? 0;
  const lists: [string, () => Promise<unknown>][] = [
    ['first rows', () => listPeople(db, actor, {})],
    ['the last rows', () => listPeople(db, actor, { from: Math.max(0, n - 60) })],
    ['sought by name', () => listPeople(db, actor, { search: 'Person 0777' })],
    ['sought and not there', () => listPeople(db, actor, { search: 'zzzz nobody' })],
    ['by station', () => listPeople(db, actor, { order: 'station' })],
    ['by occupation', () => listPeople(db, actor, { order: 'occupation' })],
    ['by who joined last', () => listPeople(db, actor, { order: 'joined' })],
    ['at a station', () => listPeople(db, actor, { audience: { kind: 'station', id: 1 } })],
    ['how many there are', () => countListedPeople(db, actor, {})],
    ['how many of a name', () => countListedPeople(db, actor, { search: 'Person 0777' })],
  ];
  for (const [what, list] of lists) {
    const took: number[] = [];
    const bare: number[] = [];
    for (let i = 0; i < round; i++) {
      took.push((await timed(list))[1]);
      bare.push((await timed(() => rows(db, 'SELECT COUNT(*) AS n FROM people')))[1]);
    }
    took.sort((a, b) => a - b);
    bare.sort((a, b) => a - b);
    console.log(
      `people of ${n}, ${what}: ${at(took, 0.5)} / ${at(took, 0.95)} at the 50th / 95th; ` +
        `the bare count ${at(bare, 0.5)} / ${at(bare, 0.95)}; aim 95th under 100 ms`,
    );
  }
}

/** The rule of the group of a number: of what people are, when they came, or of two groups before it. */
function ruleOf(i: number, ids: readonly number[]): Audience {
  const [one, two] = [ids[i - 1], ids[i - 7]];
  if (i % 10 === 9 && one !== undefined && two !== undefined)
    return { kind: 'except', from: { kind: 'group', id: two }, minus: { kind: 'group', id: one } };
  if (i % 3 === 0) return { kind: 'occupation', occupation: i % 2 ? 'driver' : 'curator' };
  if (i % 3 === 1) return { kind: 'joined within', days: 30 + i };
  return {
    kind: 'all',
    of: [
      { kind: 'station', id: 1 },
      { kind: 'role', role: 'member' },
    ],
  };
}

async function grouping(db: Database, actor: Actor): Promise<void> {
  const n = sized(500);
  const some = await rows<{ id: number }>(db, 'SELECT id FROM people WHERE id <> ? ORDER BY id LIMIT ?', [
    actor.id,
    times(200),
  ]);
  const changing = async (word: string): Promise<number> =>
    (
      await timed(async () => {
        for (const { id } of some) await alterPerson(db, actor, id, { occupation: word });
      })
    )[1];
  const without = await changing('driver');
  const ids: number[] = [];
  for (let i = 0; i < n; i++) {
    const [id = 0] = await db('groups').insert({
      name: `Group ${i}`,
      kind: 'live',
      rule: JSON.stringify(ruleOf(i, ids)),
    });
    ids.push(id);
  }
  const withThem = await changing('curator');
  const round = times(15);
  const took: Record<'list' | 'all' | 'page' | 'person' | 'bare', number[]> = {
    list: [],
    all: [],
    page: [],
    person: [],
    bare: [],
  };
  for (let i = 0; i < round; i++) {
    if (i < times(3)) {
      took.list.push((await timed(() => listGroups(db, actor)))[1]);
      took.all.push(
        (
          await timed(async () => {
            for (let from = 0; from < n; from += GROUPS_COUNTED)
              await countGroups(db, actor, ids.slice(from, from + GROUPS_COUNTED));
          })
        )[1],
      );
      took.bare.push(
        (
          await timed(async () => {
            for (let each = 0; each < n; each++)
              await rows(
                db,
                "SELECT COUNT(*) AS n FROM people p WHERE p.standing <> 'left' AND p.linked_to IS NULL AND BINARY p.occupation = ?",
                [each % 2 ? 'driver' : 'curator'],
              );
          })
        )[1],
      );
    }
    took.page.push((await timed(() => groupPage(db, actor, ids[i % n] ?? 0)))[1]);
    took.person.push((await timed(() => personForDesk(db, actor, some[i % some.length]?.id ?? 0)))[1]);
  }
  for (const each of Object.values(took)) each.sort((a, b) => a - b);
  console.log(
    `${n} live groups, a tenth made of others: the list with the first ${GROUPS_COUNTED} counted ` +
      `${at(took.list, 0.5)}; all counted ${seconds(took.all[0] ?? 0)}, the bare counts ` +
      `${seconds(took.bare[0] ?? 0)}: ${((took.all[0] ?? 0) / (took.bare[0] ?? 1)).toFixed(2)} times; one group’s page ` +
      `${at(took.page, 0.5)} / ${at(took.page, 0.95)}, a person’s page with every group they are in and why ` +
      `${at(took.person, 0.5)} / ${at(took.person, 0.95)} at the 50th / 95th; ${some.length} people changed ${seconds(withThem)}, ` +
      `without the groups ${seconds(without)}: ${(withThem / without).toFixed(2)} times`,
  );
}
