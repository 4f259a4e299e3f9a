import { monitorEventLoopDelay } from 'node:perf_hooks';
import { newAutomation, type Automation } from '../../src/core/automation/automation.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import { makeAutomation } from '../../src/server/automations/service.ts';
import { replay } from '../../src/server/automations/replay.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { makeSheet } from '../../src/server/sheets/service.ts';
import { coordinator } from './data.ts';
import { seconds, sized, timed } from './size.ts';

const RECORDS = sized(20_000);
const EVENTS = sized(100_000);
const CURATORS = sized(1_000);
const WEEKS_MS = 8 * 7 * 86_400_000;
const SYSTEM = 'loans';

/** Records that changed over eight weeks, each change telling the person its record names by a handle of another system. */
async function layChanges(db: Database): Promise<number> {
  const sheetId = await makeSheet(db, coordinator, {
    name: 'Loans',
    purpose: '',
    columns: ['Item', 'Days out', 'Longest', 'Curator'].map((name, at) => ({
      id: `c${at + 1}`,
      name,
      kind: at === 1 || at === 2 ? 'number' : 'text',
      unit: '',
      choices: [],
    })),
    form: null,
  });
  await db.raw(
    `INSERT INTO identities (person_id, in_system, value, folded) SELECT seq, ?, CONCAT('handle', seq), CONCAT('handle', seq) FROM seq_1_to_${CURATORS}`,
    [SYSTEM],
  );
  const began = Date.now() - WEEKS_MS + 3_600_000;
  const cells = (at: number, out: number): string =>
    JSON.stringify({ c1: `Item ${at}`, c2: String(out), c3: '60', c4: `handle${1 + (at % CURATORS)}` });
  for (let from = 0; from < RECORDS; from += 5_000)
    await db('records').insert(
      Array.from({ length: Math.min(5_000, RECORDS - from) }, (_, i) => ({
        sheet_id: sheetId,
        cells: cells(from + i, 20),
        made_at: new Date(began - 86_400_000),
      })),
    );
  const ids = (
    await rows<{ id: number }>(db, 'SELECT id FROM records WHERE sheet_id = ? ORDER BY id', [sheetId])
  ).map((row) => row.id);
  for (let from = 0; from < EVENTS; from += 2_000)
    await db('record_changes').insert(
      Array.from({ length: Math.min(2_000, EVENTS - from) }, (_, i) => {
        const at = (from + i) % RECORDS;
        const over = Math.floor((from + i) / RECORDS) % 2 === 0;
        return {
          record_id: ids[at],
          before_cells: cells(at, over ? 20 : 59),
          after_cells: cells(at, over ? 59 : 20),
          changed_at: new Date(began + Math.floor(((from + i) * (WEEKS_MS - 7_200_000)) / EVENTS)),
        };
      }),
    );
  return sheetId;
}

const ROWS = sized(500_000);

/** A large sheet that a schedule looks at each day: a date of the last year, and a number with its limit. */
async function layTrips(db: Database): Promise<number> {
  const sheetId = await makeSheet(db, coordinator, {
    name: 'Trips',
    purpose: '',
    columns: (['text', 'date', 'number', 'number'] as const).map((kind, at) => ({
      id: `c${at + 1}`,
      name: ['Site', 'Day', 'Humidity', 'Limit'][at] ?? '',
      kind,
      unit: '',
      choices: [],
    })),
    form: null,
  });
  await db.raw(
    `INSERT INTO records (sheet_id, cells, made_at) SELECT ?, JSON_OBJECT('c1', CONCAT('Site ', seq), 'c2',
       CAST(CURDATE() - INTERVAL MOD(seq, 365) DAY AS CHAR), 'c3', CAST(MOD(seq, 1000) / 10 AS CHAR), 'c4', '110'),
       NOW(3) - INTERVAL 1 YEAR FROM seq_1_to_${ROWS}`,
    [sheetId],
  );
  await db.raw('UPDATE sheets SET records = ? WHERE id = ?', [ROWS, sheetId]);
  return sheetId;
}

/** Eight weeks of a schedule over a large sheet, of which few, or many, meet its condition each day. */
async function overASheet(db: Database): Promise<void> {
  const sheetId = await layTrips(db);
  const when = {
    kind: 'schedule' as const,
    start: new Date(Date.now() - WEEKS_MS - 86_400_000).toISOString().slice(0, 16),
    zone: 'UTC',
    rule: { ...WEEKLY, freq: 'daily' as const },
    sheetId,
  };
  const conditions: [string, Automation['if']][] = [
    [
      'the day is today',
      { kind: 'test', field: 'record.c2', test: 'is', against: { kind: 'now', span: 0, unit: 'days' } },
    ],
    [
      'the humidity is over nine tenths of its limit',
      {
        kind: 'test',
        field: 'record.c3',
        test: 'is over',
        against: { kind: 'field', field: 'record.c4', share: 90 },
      },
    ],
  ];
  for (const [words, condition] of conditions) {
    const automation: Automation = {
      ...newAutomation(`Of the bench, ${words}`, when),
      if: condition,
      each: { kind: 'once' },
      tell: {
        to: { kind: 'audience', audience: { kind: 'person', id: coordinator.id } },
        boards: [],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
      table: { columns: ['record.c1', 'record.c3'], order: null, most: 20 },
      content: simpleContent('{how many} today', {
        type: 'doc',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Look at them.' }] }],
      }),
    };
    const id = await makeAutomation(db, coordinator, { name: automation.name, when });
    const delay = monitorEventLoopDelay({ resolution: 5 });
    delay.enable();
    const [past, took] = await timed(() => replay(db, coordinator, id, automation));
    delay.disable();
    const [, bare] = await timed(() =>
      rows(db, 'SELECT id, cells FROM records WHERE sheet_id = ? AND JSON_VALUE(cells, ?) = ?', [
        sheetId,
        '$.c2',
        '1999-01-01',
      ]),
    );
    console.log(
      `replay of eight weeks of a daily schedule over ${ROWS} records, where ${words}: ${seconds(took)} for ${past.runs} runs, ${past.said} said; one bare SELECT over them by one column ${seconds(bare)}. ` +
        `Others waited at the longest ${Math.round(delay.max / 1e6)} ms meanwhile.`,
    );
  }
}

/** Eight weeks of changes gone through once more without saying anything, beside the reading of them alone. */
export async function replaying(db: Database): Promise<void> {
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id = ?", [coordinator.id]);
  const sheetId = await layChanges(db);
  for (const when of [
    { kind: 'changes' as const, sheetId, column: 'c2' },
    { kind: 'meets' as const, sheetId, again: true },
  ]) {
    const automation: Automation = {
      ...newAutomation(`Of the bench, ${when.kind}`, when),
      if:
        when.kind === 'changes'
          ? { kind: 'all', of: [] }
          : {
              kind: 'test',
              field: 'record.c2',
              test: 'is over',
              against: { kind: 'field', field: 'record.c3', share: 90 },
            },
      tell: {
        to: { kind: 'named', field: 'record.c4', system: SYSTEM },
        boards: [],
        outside: [],
        boardField: null,
        mail: true,
        otherwise: null,
      },
      content: simpleContent('{Item} is out for {Days out} days', {
        type: 'doc',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Look at it.' }] }],
      }),
    };
    const id = await makeAutomation(db, coordinator, { name: automation.name, when });
    const delay = monitorEventLoopDelay({ resolution: 5 });
    delay.enable();
    const [past, took] = await timed(() => replay(db, coordinator, id, automation));
    delay.disable();
    const [changes, bare] = await timed(() =>
      rows(
        db,
        `SELECT c.before_cells, c.after_cells FROM record_changes c JOIN records r ON r.id = c.record_id
         WHERE r.sheet_id = ? AND c.changed_at >= NOW(3) - INTERVAL 8 WEEK`,
        [sheetId],
      ),
    );
    console.log(
      `replay of eight weeks, ${EVENTS} changes of ${RECORDS} records, set off when one ${when.kind}: ${seconds(took)} for ${past.runs} runs that would have told ${past.people} people ${past.said} things; the bare SELECT of ${changes.length} changes ${seconds(bare)}; aim 5 s. ` +
        `Others waited at the longest ${Math.round(delay.max / 1e6)} ms meanwhile.`,
    );
  }
  await overASheet(db);
}
