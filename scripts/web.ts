import { createServer, type Server } from 'node:http';
import { pathToFileURL } from 'node:url';

/** Runs a built web application, and stops it cleanly: requests under way are finished, live streams are closed. */
process.env.ASTRO_NODE_AUTOSTART = 'disabled';
const entry = process.argv[2];
if (entry === undefined) throw new Error('Name the built entry: scripts/web.ts <dist>/server/entry.mjs');
const { startServer } = (await import(pathToFileURL(entry).href)) as {
  startServer: () => { server: { server?: Server; stop: () => Promise<void> } };
};
const started = startServer();
const http = started.server.server ?? createServer();

const GRACE_MS = 2_000;
let stopping = false;
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    if (stopping) return;
    stopping = true;
    http.close();
    http.closeIdleConnections();
    setTimeout(() => process.exit(0), GRACE_MS).unref();
    http.once('close', () => process.exit(0));
  });
