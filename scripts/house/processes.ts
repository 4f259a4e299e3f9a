import { spawn, type ChildProcess } from 'node:child_process';
import { createWriteStream, openSync, readFileSync } from 'node:fs';

const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** Waits until something holds, looking again and again; false when the time is over first. */
export async function until(holds: () => Promise<boolean> | boolean, timeoutMs: number): Promise<boolean> {
  const end = Date.now() + timeoutMs;
  for (;;) {
    if (await holds()) return true;
    if (Date.now() > end) return false;
    await wait(50);
  }
}

/** The wait before a process that died is started again, in milliseconds: doubled with each death soon after the last. */
export const waitAfter = (deaths: number): number => Math.min(60_000, 1_000 * 2 ** Math.max(0, deaths - 1));
/** A process that ran so long before it died has not died "again". */
const STEADY_MS = 120_000;

/** A process we started, with its output in a file. */
export class Running {
  readonly name: string;
  child: ChildProcess;
  readonly #start: () => ChildProcess;
  #ended: Promise<void>;
  stopping = false;

  constructor(
    name: string,
    command: string[],
    options: { env: NodeJS.ProcessEnv; cwd: string; log: string },
  ) {
    this.name = name;
    const [program = '', ...args] = command;
    this.#start = () => {
      // Opened at once: the stream would open it later, when its folder may be gone.
      const log = createWriteStream(options.log, { fd: openSync(options.log, 'a') });
      // A group of its own: Ctrl-C in the terminal reaches the start command alone, which stops things in order.
      const child = spawn(program, args, { ...options, detached: true, stdio: ['ignore', 'pipe', 'pipe'] });
      child.stdout.pipe(log);
      child.stderr.pipe(log);
      return child;
    };
    this.child = this.#start();
    this.#ended = endOf(this.child);
  }

  get pid(): number {
    return this.child.pid ?? 0;
  }

  get alive(): boolean {
    return this.child.exitCode === null && this.child.signalCode === null && this.child.pid !== undefined;
  }

  /**
   * Starts it again whenever it ends by itself, with growing waits, and says so, until it is stopped.
   *
   * @param said what is told to whoever looks on
   * @param started called after each new start, with the process of another number
   */
  async keepUp(said: (line: string) => void, started: () => void): Promise<void> {
    for (let deaths = 1, since = Date.now(); ; since = Date.now()) {
      await this.#ended;
      if (this.stopping) return;
      deaths = Date.now() - since > STEADY_MS ? 1 : deaths;
      const waitMs = waitAfter(deaths++);
      const how = this.child.signalCode ?? `code ${this.child.exitCode ?? 'unknown'}`;
      said(`The ${this.name} process ended by itself (${how}). It is started again in ${waitMs / 1000} s.`);
      await wait(waitMs);
      // Asked to stop while waiting.
      if (this.stopping as boolean) return;
      this.child = this.#start();
      this.#ended = endOf(this.child);
      started();
    }
  }

  /** Asks it to stop and, if it does not within some seconds, makes it. */
  async stop(graceMs = 15_000): Promise<void> {
    this.stopping = true;
    if (!this.alive) return;
    this.child.kill('SIGTERM');
    const timer = setTimeout(() => this.child.kill('SIGKILL'), graceMs);
    await this.#ended;
    clearTimeout(timer);
  }

  async ended(): Promise<void> {
    await this.#ended;
  }
}

const endOf = (child: ChildProcess): Promise<void> =>
  new Promise((resolve) => {
    child.once('exit', () => resolve());
    child.once('error', () => resolve());
  });

/** The command line of a process, or nothing where there is none. */
function commandLine(pid: number): string | undefined {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ');
  } catch {
    return undefined;
  }
}

/** Whether a process runs whose command line contains a text, so that a number used again is not mistaken for it. */
export const runs = (pid: number, contains: string): boolean => commandLine(pid)?.includes(contains) ?? false;

/** Ends what a start that was killed has left running. */
export async function endLeftOver(pid: number, contains: string): Promise<void> {
  if (!runs(pid, contains)) return;
  process.kill(pid, 'SIGTERM');
  if (!(await until(() => !runs(pid, contains), 20_000))) process.kill(pid, 'SIGKILL');
  await until(() => !runs(pid, contains), 5_000);
}
