import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { connect } from '../src/server/database/connection.ts';
import { migrate } from '../src/server/database/migrate.ts';
import { readSettings } from '../src/server/settings.ts';
import { ROOT } from './house/bringUp.ts';
import { build, built } from './house/build.ts';
import { Running } from './house/processes.ts';
import { Stop } from './house/stop.ts';

/**
 * Runs web, engine and, where mail is taken in, its receiver for real, from the settings in the environment: lays out the database, builds, and starts either again
 * when it ends by itself, with growing waits. For a unit file; what each says is under `.clear-bell/serve/`.
 */
async function main(): Promise<void> {
  const say = (line: string): void => console.log(line);
  const settings = readSettings(process.env);
  const folder = join(ROOT, '.clear-bell', 'serve');
  mkdirSync(folder, { recursive: true });
  const db = connect(settings.DATABASE_URL, 2);
  try {
    const ran = await migrate(db);
    if (ran.length > 0) say(`Laid out the database: ${ran.length} migrations.`);
  } finally {
    await db.destroy();
  }
  const dist = join(folder, 'dist');
  build(ROOT, dist, say);
  const names = [
    'web',
    'engine',
    ...(settings.MAIL_IN_DOMAIN === undefined ? [] : ['mail-in' as const]),
  ] as const;
  const processes = names.map((name) => {
    const { command, environment } = built(dist, name);
    return new Running(name, command, {
      env: { HOST: '127.0.0.1', PORT: '4400', ...process.env, ...environment },
      cwd: ROOT,
      log: join(folder, `${name}.log`),
    });
  });
  const end = (): void => {
    void Promise.all(processes.map((running) => running.stop())).then(() => process.exit(0));
  };
  process.on('SIGINT', end);
  process.on('SIGTERM', end);
  for (const running of processes)
    void running.keepUp(
      (line) => console.error(`${line} Its own account of why is in .clear-bell/serve/${running.name}.log.`),
      () => say(`The ${running.name} process was started again.`),
    );
  say(`Started: ${processes.map((running) => running.name).join(', ')}.`);
}

try {
  await main();
} catch (error) {
  console.error(error instanceof Stop || error instanceof Error ? error.message : error);
  process.exit(1);
}
