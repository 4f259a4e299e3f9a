import { newAutomation, type When } from '../../src/core/automation/automation.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { lineUpTimes } from '../../src/server/automations/timing.ts';
import { insertAutomation, publishVersion, setAutomationState } from '../../src/server/automations/store.ts';
import { connect, rows, type Database } from '../../src/server/database/connection.ts';
import { coordinator, dueAtInstant, now, send, benchEngine } from './data.ts';
import { sized } from './size.ts';

const AUTOMATIONS = sized(500);
const SENDS = sized(2_000);
const SETTLE_MS = sized(40_000);
const MEASURED_MS = sized(60_000);
const DAY_MS = 86_400_000;
/** As often as an engine with nothing to do looks what is due. */
const LOOK_MS = 400;

const sleep = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** What this process and its database do in a while: statements a second, and the share of a core this process takes. */
async function measured(db: Database): Promise<{ statements: number; core: number }> {
  const asked = { n: 0 };
  const count = (): void => {
    asked.n++;
  };
  db.on('query', count);
  const before = process.cpuUsage();
  const began = performance.now();
  await sleep(MEASURED_MS);
  const took = performance.now() - began;
  const { user, system } = process.cpuUsage(before);
  db.off('query', count);
  return { statements: (asked.n * 1000) / took, core: (user + system) / (took * 1000) };
}

const words = ({ statements, core }: { statements: number; core: number }): string =>
  `${statements.toFixed(1)} statements a second, ${(core * 100).toFixed(2)} % of a core`;

/** What an engine costs that has nothing to do, with automations that listen and sends that are planned. */
export async function idling(db: Database, url: string): Promise<void> {
  const nowMs = await now(db);
  const sends: number[] = [];
  for (let i = 0; i < SENDS; i++) sends.push(await send(db, {}));
  await dueAtInstant(db, sends, nowMs + 3 * DAY_MS);
  const tomorrow = new Date(nowMs + DAY_MS).toISOString().slice(0, 10);
  for (let i = 0; i < AUTOMATIONS; i++) {
    const when: When = {
      kind: 'schedule',
      start: `${tomorrow}T09:00`,
      zone: 'UTC',
      rule: { ...WEEKLY, freq: 'daily' },
      sheetId: null,
    };
    const written = newAutomation(`Of the bench ${i}`, when);
    const id = await insertAutomation(db, coordinator.id, written);
    await publishVersion(db, id, written, coordinator.id);
    await setAutomationState(db, id, 'on', null);
  }
  await lineUpTimes(db);
  const [listening] = await rows<{ n: number }>(
    db,
    "SELECT COUNT(*) AS n FROM automations WHERE state = 'on'",
  );
  const own = connect(url, 14);
  const engine = benchEngine(own);
  await engine.start();
  await sleep(SETTLE_MS);
  const idle = await measured(own);
  await engine.stop();
  const looking = { goes: true };
  const bare = (async () => {
    while (looking.goes) {
      await rows(own, 'SELECT MAX(id) AS id FROM events');
      await sleep(LOOK_MS);
    }
  })();
  const beside = await measured(own);
  looking.goes = false;
  await bare;
  await own.destroy();
  console.log(
    `An engine with nothing to do, ${listening?.n ?? 0} live automations and ${SENDS} planned sends: ${words(idle)} (aim 5 and 0.3 %); one bare statement every ${LOOK_MS} ms: ${words(beside)}\n`,
  );
}
