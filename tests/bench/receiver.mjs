import { createServer } from 'node:http';
import { setInterval, setTimeout } from 'node:timers';
import { parentPort, workerData } from 'node:worker_threads';

/** An address that takes whatever is posted to it after so long, and tells ten times a second when each came. */
let came = [];
const server = createServer((request, response) => {
  request.resume().on('end', () => {
    came.push(Date.now());
    if (workerData.afterMs === 0) response.writeHead(204).end();
    else setTimeout(() => response.writeHead(204).end(), workerData.afterMs);
  });
});
server.listen(0, '127.0.0.1', () => parentPort?.postMessage(server.address().port));
setInterval(() => {
  if (came.length > 0) parentPort?.postMessage(came);
  came = [];
}, 100);
