// Keeps what was read so that it can be read again without a connection, and shows what is pushed.
const PAGES = 'pages-2';
const FILES = 'files-2';
const PARTS = 'parts-2';
const NAMES = [PAGES, FILES, PARTS];
const MOST_PAGES = 60;
const MOST_FILES = 120;
const MOST_PARTS = 300;
/** Under this address the pages' cache notes whose they are. */
const WHOSE = '/whose-pages-these-are';

/** The pages a reader may want again: what is for them, and posts. */
const isKept = (path) => /^\/(for-me|posts|boards|shelf|issues)(\/|$)/.test(path);
const isPart = (path) => /^\/_astro\//.test(path) || path === '/bell.svg';
/** Images and files that stand in what somebody read: theirs, like the pages. */
const isFile = (path) => /^\/files\//.test(path);

self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (!NAMES.includes(name)) await caches.delete(name);
      await self.clients.claim();
    })(),
  );
});

async function keep(name, request, response, most) {
  const cache = await caches.open(name);
  // What is put again takes the place of what was there once all of it has come, and stands last: the oldest is let go.
  await cache.put(request, response);
  const keys = (await cache.keys()).filter((key) => new URL(key.url).pathname !== WHOSE);
  for (const key of keys.slice(0, Math.max(0, keys.length - most))) await cache.delete(key);
}

/** Forgets what was kept of somebody: another has signed in, or the session was refused. */
async function forgetPages() {
  await caches.delete(PAGES);
  await caches.delete(FILES);
}

/** Sees to it that what is kept is this person's: what was another's is forgotten first. */
async function keepFor(person) {
  const cache = await caches.open(PAGES);
  const known = await (await cache.match(WHOSE))?.text();
  if (known === person) return;
  await forgetPages();
  if (person !== null) await (await caches.open(PAGES)).put(WHOSE, new Response(person));
}

let turn = Promise.resolve();
/** What keeps pages and what forgets them goes one after the other: a page put while another is forgotten would be lost with it. */
function inTurn(work) {
  const done = turn.then(work);
  turn = done.catch(() => undefined);
  return done;
}

/** Keeps a page under the person it was made for; one that led to signing in, or is nobody's, means the session is over. */
const keepPage = (request, response) => inTurn(() => keepPageNow(request, response));
async function keepPageNow(request, response) {
  const person = response.headers.get('x-person');
  if (person === null || response.redirected) {
    if (new URL(response.url).pathname === '/sign-in') await forgetPages();
    return;
  }
  await keepFor(person);
  if (response.ok) await keep(PAGES, request, response, MOST_PAGES);
}

/** The page from the network; without one, as it was the last time. */
async function page(request) {
  try {
    const response = await fetch(request);
    await keepPage(request, response.clone());
    return response;
  } catch (error) {
    const cache = await caches.open(PAGES);
    const kept = await cache.match(request, { ignoreVary: true });
    if (kept) return kept;
    const home = await cache.match('/for-me');
    // Who has never been here keeps nothing, and the browser says in its own words that there is no connection.
    if (!home) throw error;
    return notKept();
  }
}

/** Says that a page is not kept, instead of showing another one in its place. */
const notKept = () =>
  new Response(
    `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Not kept on this device · Clear Bell</title></head><body><main><h1>Not kept on this device</h1>
<p>There is no connection, and this page was not read here before, so it cannot be shown now.</p>
<p><a href="/for-me">For me, as it was the last time</a> · <a href="">Try again</a></p></main></body></html>`,
    { status: 503, headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' } },
  );

/** An image or a file: from the network, so that what was taken back is gone; without one, as it was the last time. */
async function file(request) {
  try {
    const response = await fetch(request);
    if (response.status === 200) await keep(FILES, request, response.clone(), MOST_FILES);
    return response;
  } catch (error) {
    const kept = await (await caches.open(FILES)).match(request, { ignoreVary: true });
    if (kept) return kept;
    throw error;
  }
}

/** A part of a page: what it is called says what is in it, so it never changes. */
async function part(request) {
  const cache = await caches.open(PARTS);
  const kept = await cache.match(request, { ignoreVary: true });
  if (kept) return kept;
  const response = await fetch(request);
  if (response.ok) await keep(PARTS, request, response.clone(), MOST_PARTS);
  return response;
}

self.addEventListener('fetch', (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== 'GET' || url.origin !== location.origin) return;
  if (request.mode === 'navigate' && isKept(url.pathname)) event.respondWith(page(request));
  else if (request.mode === 'navigate' && url.pathname === '/sign-in') event.waitUntil(inTurn(forgetPages));
  // A video comes in pieces, which are not kept.
  else if (isFile(url.pathname) && !request.headers.has('range')) event.respondWith(file(request));
  else if (isPart(url.pathname)) event.respondWith(part(request));
});

self.addEventListener('message', (event) => {
  const { person, keep: parts = [], page: here } = event.data ?? {};
  event.waitUntil(
    (async () => {
      if (person !== undefined) await inTurn(() => keepFor(String(person)));
      for (const address of parts) {
        const url = new URL(address);
        if (url.origin === location.origin && isPart(url.pathname))
          await part(new Request(url)).catch(() => undefined);
      }
      if (here && isKept(new URL(here).pathname)) {
        const response = await fetch(here).catch(() => undefined);
        if (response) await keepPage(new Request(here), response);
      }
    })(),
  );
});

self.addEventListener('push', (event) => {
  const { title, text, path, why, urgent, answer } = event.data?.json() ?? {};
  event.waitUntil(
    self.registration.showNotification(title ?? 'Clear Bell', {
      body: [text, why].filter(Boolean).join('\n\n'),
      icon: '/bell-192.png',
      tag: path,
      requireInteraction: urgent === true,
      data: { path: path ?? '/for-me', answer: answer ?? null, title },
      actions: answer ? [{ action: 'acknowledge', title: 'Acknowledge' }] : [],
    }),
  );
});

self.addEventListener('notificationclick', (event) => {
  const { path, answer, title } = event.notification.data;
  event.notification.close();
  if (event.action !== 'acknowledge' || !answer) {
    event.waitUntil(self.clients.openWindow(path));
    return;
  }
  event.waitUntil(
    (async () => {
      const response = await fetch(answer, { method: 'POST' }).catch(() => undefined);
      await self.registration.showNotification(response?.ok ? `Acknowledged: ${title}` : title, {
        body: response?.ok ? 'Thank you.' : 'It could not be acknowledged just now. Press to open it.',
        icon: '/bell-192.png',
        tag: path,
        data: { path, answer: null, title },
      });
    })(),
  );
});
