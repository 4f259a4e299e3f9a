import pino from 'pino';

/** Structured log lines on standard output. They never carry message text or addresses. */
export function logger(name: string, level: string): pino.Logger {
  return pino({ name, level, base: { name, pid: process.pid } });
}
