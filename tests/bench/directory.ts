import { ROWS_AT_ONCE } from '../../src/core/imports/import.ts';
import { readList } from '../../src/core/imports/reading.ts';
import { rawRecord } from '../../src/core/imports/record.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { change, rows, type Database } from '../../src/server/database/connection.ts';
import { applyImport, undoImport } from '../../src/server/imports/apply.ts';
import { addRows, beginImport, compareImport } from '../../src/server/imports/service.ts';
import { listPeople } from '../../src/server/people/service.ts';
import { seconds, sized, timed, times } from './size.ts';

const at = (sorted: readonly number[], share: number): string =>
  `${(sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0).toFixed(1)} ms`;

/** A list of 20,000 brought into a directory of 100,000 and taken back; the list of people and what is sought in it. */
export async function directory(db: Database): Promise<void> {
  const [first] = await rows<{ id: number }>(db, 'SELECT MIN(id) AS id FROM people');
  const actor: Actor = { id: first?.id ?? 1, role: 'coordinator', moderates: new Set(), mayReach: new Set() };
  await change(db, "UPDATE people SET role = 'coordinator' WHERE id = ?", [actor.id]);
  await importing(db, actor);
  await listing(db, actor);
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
  for (const [what, search] of [
    ['first rows', ''],
    ['sought by name', 'Person 0777'],
    ['sought and not there', 'zzzz nobody'],
  ] as const) {
    const took: number[] = [];
    const bare: number[] = [];
    for (let i = 0; i < round; i++) {
      took.push((await timed(() => listPeople(db, actor, { search })))[1]);
      bare.push((await timed(() => rows(db, 'SELECT COUNT(*) AS n FROM people')))[1]);
    }
    took.sort((a, b) => a - b);
    bare.sort((a, b) => a - b);
    console.log(
      `people of ${total?.n ?? 0}, ${what}: ${at(took, 0.5)} / ${at(took, 0.95)} at the 50th / 95th; ` +
        `the bare count ${at(bare, 0.5)} / ${at(bare, 0.95)}; aim 95th under 100 ms`,
    );
  }
}
