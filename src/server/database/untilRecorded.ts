import { setTimeout as wait } from 'node:timers/promises';
import { RETRYABLE } from './connection.ts';
import { DAMAGE } from './damage.ts';

/** Errors of MariaDB, or of a proxy before it, that say that it is not there for now. */
const AWAY = new Set([
  // Too many connections; shutting down; connection killed or broken off.
  1040,
  1053,
  1077,
  1152,
  1158,
  1159,
  1160,
  1161,
  1317,
  1927,
  2002,
  2006,
  2013,
  // A node that is not one of the majority, or could not commit with the others; read only.
  1047,
  1180,
  1290,
  // Its disk is full, or fails: the disk, a file, a table; what a storage engine says of it.
  1021,
  1026,
  1030,
  1114,
  // It is damaged: another takes over, or it is mended.
  ...DAMAGE,
]);
const AWAY_CODES = /^(PROTOCOL_|ECONN|EPIPE|ETIMEDOUT|EHOSTUNREACH|ENETUNREACH|EAI_AGAIN)/;

/** Whether an error says that the database is away, cannot write or asks to be asked again, and not that something is wrong with what it was asked. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const { errno, code, fatal } = error as { errno?: unknown; code?: unknown; fatal?: unknown };
  return (
    error.name === 'KnexTimeoutError' ||
    // The driver: the connection is of no use any more.
    fatal === true ||
    (typeof errno === 'number' && (AWAY.has(errno) || RETRYABLE.has(errno))) ||
    (typeof code === 'string' && AWAY_CODES.test(code)) ||
    /WSREP|[Ww]riteset|Primary Component|closed state|Connection lost/.test(error.message)
  );
}

/** So long what came of something is held while the database is away; when the process is to end, so long yet. */
const HELD_MS = 30 * 60_000;
const HELD_AT_THE_END_MS = 10_000;
const WAIT_MS = 500;

/**
 * Writes down what came of something that cannot be done again without harm, such as a mail that a server has taken: while the
 * database is away it is held and tried again, until it is written. The work must be repeatable.
 *
 * @param waiting told when it has to wait
 * @param stop the process is to end: it is given up soon
 * @throws any other error at once; that of the database where it stays away for half an hour
 */
export async function untilRecorded<T>(
  work: () => Promise<T>,
  { waiting, stop }: { waiting?: () => void; stop?: AbortSignal | undefined } = {},
): Promise<T> {
  let endsMs = Date.now() + HELD_MS;
  let ending = false;
  for (;;)
    try {
      return await work();
    } catch (error) {
      if (stop?.aborted && !ending) {
        ending = true;
        endsMs = Math.min(endsMs, Date.now() + HELD_AT_THE_END_MS);
      }
      if (!isAway(error) || Date.now() > endsMs) throw error;
      waiting?.();
      await wait(WAIT_MS * (0.5 + Math.random()));
    }
}
