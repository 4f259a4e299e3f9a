import type { Automation } from '../core/automation/automation.ts';
import { foldHandle } from '../core/directory/identity.ts';
import { fieldsOf } from '../core/automation/fields.ts';
import type { Actor } from '../core/rights/decide.ts';
import { readPlan } from '../core/stored.ts';
import { calculator } from '../core/sheets/formula.ts';
import type { Cells } from '../core/sheets/sheet.ts';
import { dateAt, dayAfter, resolveMoment } from '../core/timing/wallTime.ts';
import { match } from '../server/automations/matching.ts';
import { Around } from '../server/automations/around.ts';
import { prepare } from '../server/automations/prepare.ts';
import { causesOf, type PastCause } from '../server/automations/pastCauses.ts';
import { insertSayings } from '../server/automations/runStore.ts';
import { speak } from '../server/automations/speaking.ts';
import { insertAutomation, publishVersion, setAutomationState } from '../server/automations/store.ts';
import { isIn } from '../server/audience/store.ts';
import { change, rows, type Database } from '../server/database/connection.ts';
import { audienceContext } from '../server/groups/directory.ts';
import { insertAddress } from '../server/people/addressStore.ts';
import { insertSender } from '../server/senders/store.ts';
import { KIT_FORM } from './boards.ts';
import { layPicture } from './pictures.ts';
import { insertIdentity } from '../server/identities/store.ts';
import { followingSchema } from '../core/sheets/followingSchema.ts';
import { insertSource as insertSheetSource } from '../server/sheets/following/store.ts';
import { countIn, insertSheet } from '../server/sheets/store.ts';
import { laySheetViews } from './sheetViews.ts';
import { insertSource } from '../server/sources/store.ts';
import { layGateways } from './gateways.ts';
import { demoAutomations, SENDERS, SHEETS, type Named } from './automationTexts.ts';
import { layPast } from './past.ts';
import type { DemoPeople } from './people.ts';
import { pick, seeded } from './random.ts';

const ZONE = 'Europe/London';
const DAY_MS = 86_400_000;
const WEEKS = 8;
const CONDITIONS = 'Conditions at the collecting sites';
type Ids = Map<string, number>;

const oneOf = (random: () => number, from: readonly string[]): string =>
  from[Math.floor(random() * from.length)] ?? '';
const conditionsUrl = (origin: string): string => `${origin}/conditions?place={place}`;

const consignmentsUrl = (origin: string): string => `${origin}/tables/consignments`;

/** Says where the stand-in that keeps records answers, and has it read at once; its port may be another at each start. */
export async function placeRecords(db: Database, origin: string): Promise<void> {
  await change(
    db,
    `UPDATE sheet_sources f JOIN sheets s ON s.id = f.sheet_id SET f.source = JSON_SET(f.source, '$.url', ?), f.try_at = NOW(3)
     WHERE s.name = ?`,
    [consignmentsUrl(origin), SHEETS.consignments.name],
  );
}

/** Says where the stand-in for conditions answers; its port may be another at each start. */
export async function placeConditions(db: Database, origin: string): Promise<void> {
  await change(db, "UPDATE sources SET source = JSON_SET(source, '$.url', ?) WHERE name = ?", [
    conditionsUrl(origin),
    CONDITIONS,
  ]);
}

interface Sheets {
  id: (name: keyof typeof SHEETS) => number;
}

async function insertRecordAt(
  db: Database,
  sheetId: number,
  cells: Cells,
  atMs: number,
  by: number | null,
  fromForm = false,
): Promise<number> {
  const [id = 0] = await db('records').insert({
    sheet_id: sheetId,
    cells: JSON.stringify(cells),
    made_at: new Date(atMs),
    changed_at: new Date(atMs),
    changed_by: by,
    from_form: fromForm,
  });
  await countIn(db, sheetId, 1);
  return id;
}

/** Changes a record as somebody did then; what it held before is kept. */
async function changeRecordAt(
  db: Database,
  id: number,
  before: Cells,
  after: Cells,
  atMs: number,
  by: number,
): Promise<void> {
  await change(db, 'UPDATE records SET cells = ?, changed_at = ?, changed_by = ? WHERE id = ?', [
    JSON.stringify(after),
    new Date(atMs),
    by,
    id,
  ]);
  await db('record_changes').insert({
    record_id: id,
    before_cells: JSON.stringify(before),
    after_cells: JSON.stringify(after),
    changed_at: new Date(atMs),
    changed_by: by,
  });
}

async function layReadings(db: Database, sheets: Sheets, people: DemoPeople, nowMs: number): Promise<void> {
  const random = seeded(20_260_713);
  const calculate = calculator(SHEETS.readings.columns);
  const by = people.byMail('jago');
  for (const [place] of people.stations) {
    const limit = pick(random, [52, 55, 58, 60]);
    const reading = (): Cells =>
      calculate({
        c1: place,
        c2: (limit * (0.6 + 0.36 * random())).toFixed(1),
        c3: String(limit),
        c4: (3 + 4 * random()).toFixed(1),
      });
    let before = reading();
    const begun = nowMs - WEEKS * 7 * DAY_MS;
    const id = await insertRecordAt(db, sheets.id('readings'), before, begun, by);
    for (let day = 2; day < WEEKS * 7; day += 3) {
      const after = reading();
      await changeRecordAt(db, id, before, after, begun + day * DAY_MS + 6 * 3_600_000 * random(), by);
      before = after;
    }
  }
}

async function layLoans(db: Database, sheets: Sheets, people: DemoPeople, nowMs: number): Promise<void> {
  const random = seeded(20_260_714);
  const by = people.byMail('maud');
  const wanted = [
    'Blue poppy 0412',
    'Marsh orchid 0077',
    'Bere barley 1103',
    'Silver tussock 0290',
    'Ridge thyme 0518',
    'Emmer wheat 0931',
    'Sand lily 0045',
    'Black oat 0666',
    'Bog myrtle 0120',
  ];
  const asking = ['Highfold Collection', 'Lower Weald Garden', 'Isle Herbarium', 'Dry Hills Trust'] as const;
  for (const [at, accession] of wanted.entries()) {
    const madeMs = nowMs - (WEEKS * 7 - 4 - at * 6) * DAY_MS + 5 * 3_600_000;
    const begun: Cells = { c1: accession, c3: pick(random, asking) };
    const id = await insertRecordAt(db, sheets.id('loans'), begun, madeMs, by);
    // The last one still waits for its curator.
    if (at === wanted.length - 1) continue;
    // One was written as somebody is called in no system.
    const curator = at === 6 ? 'o.birch' : pick(random, ['k.ferragut', 'j.quillfeather', 'o.barasi']);
    const complete: Cells = {
      ...begun,
      c2: String(Math.round(4 + 30 * random())),
      c4: curator,
      ...(at % 3 === 0 ? {} : { c5: dayAfter(dateAt(madeMs, ZONE), 21) }),
    };
    await changeRecordAt(db, id, begun, complete, madeMs + 26 * 3_600_000, by);
  }
  for (const [mail, handle] of [
    ['nuria', 'k.ferragut'],
    ['jago', 'j.quillfeather'],
    ['otieno', 'o.barasi'],
  ] as const)
    await insertIdentity(db, {
      personId: people.byMail(mail),
      system: 'loans',
      value: handle,
      folded: foldHandle(handle),
    });
  await insertAddress(db, people.byMail('jago'), 'jago.quillfeather@home.lantern-fold.example');
}

async function layTripsAndTests(
  db: Database,
  sheets: Sheets,
  people: DemoPeople,
  nowMs: number,
): Promise<void> {
  const random = seeded(20_260_715);
  const by = people.byMail('nuria');
  const places = [...people.stations.keys()];
  const leaders = ['sarita', 'keola', 'marli', 'wren', 'otieno'] as const;
  const address = (mail: string): string => `${mail}@thistledown.example`;
  for (let day = -WEEKS * 7; day <= 9; day += 3)
    for (let n = 0; n < (day % 2 === 0 ? 2 : 1); n++)
      await insertRecordAt(
        db,
        sheets.id('trips'),
        {
          c1: n === 0 ? oneOf(random, places) : pick(random, ['Low Ford', 'Sheep Pass', 'Reed Lake']),
          c2: dayAfter(dateAt(nowMs, ZONE), day),
          c3: address(pick(random, leaders)),
          c4: String(2 + Math.floor(5 * random())),
        },
        nowMs + (Math.min(day, 0) - 5) * DAY_MS,
        by,
      );
  for (let batch = 0; batch < 14; batch++)
    await insertRecordAt(
      db,
      sheets.id('tests'),
      {
        c1: `G-${412 + batch}`,
        c2: oneOf(random, places),
        c3: dayAfter(dateAt(nowMs, ZONE), -2 + batch),
        c4: address(pick(random, leaders)),
        ...(batch % 4 === 0 ? { c5: 'yes' } : {}),
      },
      nowMs - (WEEKS * 7 - batch * 3) * DAY_MS,
      by,
    );
}

async function layKit(db: Database, sheets: Sheets, people: DemoPeople, nowMs: number): Promise<void> {
  const asked: [string, string, string, number][] = [
    ['Kestrel Gorge', 'Forty paper bags and two loupes', 'otieno', 31],
    ['Oru Terrace', 'Silica gel, 5 kg', 'sarita', 19],
    ['Sant Elm', 'Tags and soft pencils', 'nuria', 8],
    ['Cinder Bay', 'A second cool box', 'kailani', 2],
  ];
  for (const [place, what, mail, daysAgo] of asked)
    await insertRecordAt(
      db,
      sheets.id('kit'),
      { c1: place, c2: what, c3: dayAfter(dateAt(nowMs, ZONE), 7 - daysAgo) },
      nowMs - daysAgo * DAY_MS,
      people.byMail(mail),
      true,
    );
}

/** One run of the past as it would have gone, delivered as what was sent by hand then. */
async function layRun(
  db: Database,
  owner: Actor,
  automation: { id: number; versionId: number; written: Automation },
  past: PastCause,
  nowMs: number,
  at: number,
): Promise<void> {
  const { cause, atMs, rows: then } = past;
  const prepared = await prepare(
    db,
    owner,
    automation.written,
    cause,
    atMs,
    { secret: '', inside: [] },
    new Around(db),
    then && then(),
  );
  const said = prepared.sayings.length;
  const [runId = 0] = await db('automation_runs').insert({
    automation_id: automation.id,
    version_id: automation.versionId,
    cause_key: cause.kind === 'time' ? `time.${cause.wall}` : `past.${at}`,
    cause: JSON.stringify(cause),
    due_at: new Date(atMs),
    try_at: new Date(atMs),
    state: said > 0 ? 'said' : prepared.keptBack.length > 0 ? 'held' : 'nothing',
    attempts: 1,
    matched: prepared.matched,
    said,
    kept_back: prepared.keptBack.length,
    reason: said > 0 ? null : (prepared.keptBack[0]?.reason ?? 'Nothing met its conditions.'),
    ended_at: new Date(atMs + 300),
  });
  const now = await audienceContext(db);
  const lines = [];
  for (const saying of prepared.sayings) {
    const occurrenceId = await speak(db, owner.id, { runId }, saying);
    lines.push({ ...saying, occurrenceId });
    const [made] = await rows<{ versionId: number; announcementId: number; plan: string }>(
      db,
      `SELECT o.version_id AS versionId, s.announcement_id AS announcementId, s.plan FROM occurrences o
         JOIN sends s ON s.id = o.send_id WHERE o.id = ?`,
      [occurrenceId],
    );
    if (occurrenceId === null || !made) continue;
    const begun = new Date(Math.min(atMs, nowMs));
    await change(db, 'UPDATE announcements SET created_at = ?, saved_at = ? WHERE id = ?', [
      begun,
      begun,
      made.announcementId,
    ]);
    await layPast(db, {
      occurrenceId,
      versionId: made.versionId,
      author: owner.id,
      plan: readPlan(made.plan),
      item: {},
      buckets: saying.buckets,
      nowMs,
      who: saying.audience && isIn(saying.audience, now),
    });
  }
  await insertSayings(
    db,
    [runId],
    [
      ...lines.map((line) => ({ ...line, runId })),
      ...prepared.keptBack.map((kept) => ({ ...kept, runId, occurrenceId: null, otherwise: false })),
    ],
  );
}

/** The automations of the network with what they read, and eight weeks of what they did. */
export async function layAutomations(
  db: Database,
  secret: string,
  nowMs: number,
  people: DemoPeople,
  groups: Ids,
  boards: Ids,
): Promise<void> {
  const maud = people.byMail('maud');
  const sheetIds: Ids = new Map();
  for (const [key, sheet] of Object.entries(SHEETS))
    sheetIds.set(
      key,
      await insertSheet(db, {
        name: sheet.name,
        purpose: sheet.purpose,
        columns: [...sheet.columns],
        form: sheet.form && { ...sheet.form, fields: [...sheet.form.fields] },
        formKey: sheet.form ? KIT_FORM : null,
        by: maud,
      }),
    );
  await laySheetViews(db, sheetIds, maud);
  await insertSheetSource(db, sheetIds.get('consignments') ?? 0, {
    source: followingSchema.parse({
      url: consignmentsUrl('http://localhost:1'),
      header: '',
      everyMinutes: 1,
      rows: '/consignments',
      key: '/id',
      gone: '',
      after: '',
      columns: { c1: '/id', c2: '/from', c3: '/to', c4: '/state', c5: '/due', c6: '/packets' },
    }),
    sealed: null,
    madeBy: maud,
  });
  const sheets: Sheets = { id: (name) => sheetIds.get(name) ?? 0 };
  await layReadings(db, sheets, people, nowMs);
  await layLoans(db, sheets, people, nowMs);
  await layTripsAndTests(db, sheets, people, nowMs);
  await layKit(db, sheets, people, nowMs);
  const senders: Ids = new Map();
  for (const { name, drawing } of SENDERS) {
    const picture = drawing && (await layPicture(db, drawing, maud, '', 'beside'));
    senders.set(name, await insertSender(db, { name, picture }));
  }
  const conditions = await insertSource(
    db,
    {
      name: CONDITIONS,
      url: conditionsUrl('http://localhost:1'),
      header: '',
      fields: [
        { name: 'river', pointer: '/river/level', kind: 'number', unit: 'm' },
        { name: 'frost', pointer: '/frost', kind: 'yes or no', unit: '' },
        { name: 'temperature', pointer: '/temperature', kind: 'number', unit: '°C' },
      ],
      keepMinutes: 30,
    },
    null,
    maud,
  );
  const hooks = await layGateways(db, secret, nowMs, people, boards);
  const fromMs = nowMs - WEEKS * 7 * DAY_MS;
  const sessions = new Map(
    (await rows<{ id: number; title: string }>(db, 'SELECT id, title FROM calendar_sessions')).map(
      ({ id, title }) => [title, id],
    ),
  );
  const named: Named = {
    group: (name) => groups.get(name) ?? 0,
    board: (name) => boards.get(name) ?? 0,
    sheet: sheets.id,
    sender: (name) => senders.get(name) ?? 0,
    conditions,
    hook: (name) => hooks.get(name) ?? 0,
    session: (title) => sessions.get(title) ?? 0,
    banner: await layPicture(db, 'hills', maud, 'Hills, with seeds on the wind', 'wide'),
    today: dateAt(nowMs, ZONE),
    begun: dateAt(fromMs, ZONE),
  };
  const owner: Actor = { id: maud, role: 'coordinator', moderates: new Set(), mayReach: new Set() };
  for (const written of demoAutomations(named)) await layAutomation(db, owner, written, { fromMs, nowMs });
}

/** Most runs of the past that are laid for one automation: the latest. */
const MOST_RUNS = 24;

async function layAutomation(
  db: Database,
  owner: Actor,
  written: Automation,
  { fromMs, nowMs }: { fromMs: number; nowMs: number },
): Promise<void> {
  const id = await insertAutomation(db, owner.id, written);
  const { id: versionId } = await publishVersion(db, id, written, owner.id);
  await change(db, 'UPDATE automation_versions SET published_at = ? WHERE id = ?', [
    new Date(fromMs),
    versionId,
  ]);
  const sheetId = 'sheetId' in written.when ? written.when.sheetId : null;
  const [sheet] =
    sheetId === null
      ? []
      : await rows<{ columns: string }>(db, 'SELECT columns FROM sheets WHERE id = ?', [sheetId]);
  const fields = fieldsOf(written.when, sheet ? (JSON.parse(sheet.columns) as never) : []);
  // What is looked up is of now: what was said of it then is not made up.
  if (written.lookup === null) {
    const { causes } = await causesOf(db, written, fields, owner.id, { fromMs, toMs: nowMs, zone: ZONE });
    for (const [at, past] of causes.slice(-MOST_RUNS).entries())
      await layRun(db, owner, { id, versionId, written }, past, nowMs, at);
  }
  await match(db, { id, live: written, liveVersionId: versionId }, null, '', true);
  if (written.name === 'Germination tests due this week') await layPaused(db, id, versionId, nowMs);
}

/** One that paused itself, with the run that was too much for it. */
async function layPaused(db: Database, id: number, versionId: number, nowMs: number): Promise<void> {
  const why =
    'It would have said 31 things at once and 0 in the hour before; its ceiling is 12 an hour. Nothing of it was said.';
  const atMs = resolveMoment({ wall: `${dayAfter(dateAt(nowMs, ZONE), -1)}T08:00`, zone: ZONE }).epochMs;
  await db('automation_runs').insert({
    automation_id: id,
    version_id: versionId,
    cause_key: 'past.paused',
    cause: JSON.stringify({ kind: 'time', wall: `${dateAt(atMs, ZONE)}T08:00` }),
    due_at: new Date(atMs),
    try_at: new Date(atMs),
    state: 'held',
    attempts: 1,
    matched: 31,
    kept_back: 31,
    reason: why,
    ended_at: new Date(atMs + 200),
  });
  await setAutomationState(db, id, 'paused', why);
}
