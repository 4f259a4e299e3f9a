import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { DEMO_PASSWORD } from '../src/demo/load.ts';
import { DEMO_DOMAIN } from '../src/demo/people.ts';
import { bringUp, placeFolder } from './house/bringUp.ts';
import { runs } from './house/processes.ts';
import { Stop } from './house/stop.ts';

const HELP = `./start            bring Clear Bell up and print its address
  --port N         the web's port (4400)
  --fresh          begin again with new demo data; what was there is dropped
  --no-demo        begin empty: the first visitor sets up the organisation
  --place NAME     keep everything under .clear-bell/NAME (main)
  --help           this`;

function options() {
  try {
    const { values } = parseArgs({
      options: {
        port: { type: 'string', default: '4400' },
        fresh: { type: 'boolean', default: false },
        'no-demo': { type: 'boolean', default: false },
        place: { type: 'string', default: 'main' },
        help: { type: 'boolean', default: false },
      },
    });
    return values;
  } catch (error) {
    throw new Stop(`${error instanceof Error ? error.message : String(error)}\n\n${HELP}`);
  }
}

/** How to get in: on the demo by one press or by password; otherwise by setting it up. */
function signIns(demo: boolean): string {
  if (!demo) return '            (the first visitor of an empty database sets it up)\n';
  const lines = [
    ['maud', 'coordinator'],
    ['nuria', 'editor'],
    ['otieno', 'moderator'],
    ['wren', 'member'],
  ].map(([name = '', role = '']) => `            ${`${name}@${DEMO_DOMAIN}`.padEnd(28)} ${role}`);
  return `  Sign in   with one press on the sign-in page, or by password "${DEMO_PASSWORD}" as\n${lines.join('\n')}\n`;
}

async function main(): Promise<void> {
  const wished = options();
  if (wished.help) {
    console.log(HELP);
    return;
  }
  const port = Number(wished.port);
  if (!Number.isInteger(port) || port < 1 || port > 65_535)
    throw new Stop(`--port ${wished.port} is no port. Choose a number from 1 to 65535.`);
  if (!/^[a-z0-9-]+$/.test(wished.place)) throw new Stop('--place takes small letters, digits and hyphens.');

  const folder = placeFolder(wished.place);
  mkdirSync(folder, { recursive: true });
  const stateFile = join(folder, 'start.json');
  if (existsSync(stateFile)) {
    const state = JSON.parse(readFileSync(stateFile, 'utf8')) as { pid: number; address: string };
    if (runs(state.pid, 'scripts/start.ts')) {
      if (wished.fresh)
        throw new Stop('Clear Bell is running. Stop it with Ctrl-C there first, then use --fresh.');
      console.log(`Clear Bell is running already: ${state.address}`);
      return;
    }
  }

  const began = Date.now();
  const say = (line: string): void => console.log(`  ${line}`);
  const ending: { asked: boolean; stop: (() => Promise<void>) | null } = { asked: false, stop: null };
  const end = async (): Promise<void> => {
    if (!ending.stop) return;
    console.log('\n  Stopping ...');
    await ending.stop();
    rmSync(stateFile, { force: true });
    process.exit(0);
  };
  const askToEnd = (): void => {
    if (ending.asked) return;
    ending.asked = true;
    void end();
  };
  process.on('SIGINT', askToEnd);
  process.on('SIGTERM', askToEnd);

  const house = await bringUp({
    place: wished.place,
    port,
    fresh: wished.fresh,
    demo: !wished['no-demo'],
    durable: true,
    say,
  });
  ending.stop = house.stop;
  writeFileSync(stateFile, JSON.stringify({ pid: process.pid, address: house.url }));
  // A signal that came while things were still coming up is obeyed now.
  if (ending.asked) {
    await end();
    return;
  }
  console.log(`
Clear Bell is up after ${((Date.now() - began) / 1000).toFixed(1)} s.

  Address   ${house.url}
${signIns(house.demo)}  Mailbox   ${house.mailboxUrl}   (where all its mail ends up; mail to it is written there too)
  Devices   ${house.devicesUrl}   (where what is pushed ends up)
  Sites     ${house.conditionsUrl}   (made-up conditions at the collecting sites, which automations look up)
  Receiver  ${house.receiverUrl}   (an outside system that is told of what happens)
  Records   ${house.recordsUrl}   (an outside service whose records a sheet follows)
  Sign-in   ${house.signInUrl}   (the house's own sign-in, which people can come in by)
  Logs      .clear-bell/${wished.place}/

Ctrl-C stops everything.`);

  for (const running of house.processes)
    void running.keepUp((line) => {
      const log = running.name === 'database' ? 'database/server' : running.name;
      console.error(`\n  ${line} Its own account of why is in .clear-bell/${wished.place}/${log}.log.`);
    }, house.note);
}

try {
  await main();
} catch (error) {
  console.error(error instanceof Stop ? `\n${error.message}` : error);
  process.exit(1);
}
