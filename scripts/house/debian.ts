import { spawnSync } from 'node:child_process';
import { accessSync, constants } from 'node:fs';
import { delimiter, join } from 'node:path';
import { Stop } from './stop.ts';

const FOLDERS = [...(process.env.PATH ?? '').split(delimiter), '/usr/sbin', '/usr/local/sbin', '/usr/bin'];

/** Where a command is, or nothing. Looks in the administrator's folders too, which are not on everybody's path. */
export function find(command: string): string | undefined {
  return FOLDERS.map((folder) => join(folder, command)).find((path) => {
    try {
      accessSync(path, constants.X_OK);
      return true;
    } catch {
      return false;
    }
  });
}

/**
 * Makes sure commands are there, installing their Debian packages where they are not.
 *
 * @param wanted commands with the package each comes in
 */
export function ensureCommands(wanted: Record<string, string>, say: (line: string) => void): void {
  const missing = Object.entries(wanted).filter(([command]) => !find(command));
  if (missing.length === 0) return;
  const packages = [...new Set(missing.map(([, name]) => name))];
  const byHand = `apt-get install ${packages.join(' ')}`;
  if (!find('apt-get'))
    throw new Stop(
      `${packages.join(' and ')} is missing, and this is not a Debian machine. Install what provides ${missing.map(([command]) => command).join(', ')}.`,
    );
  const root = process.getuid?.() === 0;
  const asRoot = root ? [] : ['sudo', '-n'];
  if (!root && (!find('sudo') || spawnSync('sudo', ['-n', 'true']).status !== 0))
    throw new Stop(
      `${packages.join(' and ')} is missing, and this account may not install. Have an administrator run: ${byHand}`,
    );
  say(`Installing ${packages.join(' and ')} from Debian's packages ...`);
  const apt = (...args: string[]): boolean => {
    const [command = 'apt-get', ...rest] = [...asRoot, 'apt-get', ...args];
    return (
      spawnSync(command, rest, {
        stdio: ['ignore', 'ignore', 'ignore'],
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      }).status === 0
    );
  };
  const install = (): boolean => apt('install', '-y', '-q', '--no-install-recommends', ...packages);
  if (!install() && !(apt('update', '-q') && install()))
    throw new Stop(`${packages.join(' and ')} could not be installed. Run this to see why: ${byHand}`);
  const still = missing.filter(([command]) => !find(command)).map(([command]) => command);
  if (still.length > 0)
    throw new Stop(`${still.join(', ')} is still missing after installing. Run: ${byHand}`);
}
