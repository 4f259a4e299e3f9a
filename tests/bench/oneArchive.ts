import type { Actor } from '../../src/core/rights/decide.ts';
import { connect } from '../../src/server/database/connection.ts';
import { organisationArchive } from '../../src/server/organisation/takingOut.ts';

/** Takes the organisation out of a database in a process of its own, as a web does, and prints what that took as JSON. */
const [url = '', coordinatorId = '1'] = process.argv.slice(2);
const db = connect(url, 4);
const coordinator: Actor = {
  id: Number(coordinatorId),
  role: 'coordinator',
  moderates: new Set(),
  mayReach: new Set(),
};
const before = process.memoryUsage().rss;
let peak = before;
const watch = setInterval(() => {
  peak = Math.max(peak, process.memoryUsage().rss);
}, 50);
const begun = performance.now();
const { body, over } = await organisationArchive(db, coordinator, 'https://bell.example');
let bytes = 0;
for await (const part of body as unknown as AsyncIterable<Uint8Array>) bytes += part.byteLength;
await over;
clearInterval(watch);
console.log(JSON.stringify({ before, peak, bytes, tookMs: performance.now() - begun }));
await db.destroy();
