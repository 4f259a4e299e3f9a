// Keeps what was read so that it can be read again without a connection, and shows what is pushed.
const PAGES = 'pages-1';
const PARTS = 'parts-1';
const MOST_PAGES = 60;
const MOST_PARTS = 300;

/** The pages a reader may want again: what is for them, and posts. */
const isKept = (path) => /^\/(for-me|posts|boards|shelf|issues)(\/|$)/.test(path);
const isPart = (path) => /^\/(_astro|files)\//.test(path) || path === '/bell.svg';

self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (name !== PAGES && name !== PARTS) await caches.delete(name);
      await self.clients.claim();
    })(),
  );
});

async function keep(name, request, response, most) {
  const cache = await caches.open(name);
  // What is put again takes the place of what was there once all of it has come, and stands last: the oldest is let go.
  await cache.put(request, response);
  const keys = await cache.keys();
  for (const key of keys.slice(0, Math.max(0, keys.length - most))) await cache.delete(key);
}

/** The page from the network; without one, as it was the last time. */
async function page(request) {
  try {
    const response = await fetch(request);
    // A page that led elsewhere, to sign in say, is not the page.
    if (response.ok && !response.redirected) await keep(PAGES, request, response.clone(), MOST_PAGES);
    return response;
  } catch (error) {
    const cache = await caches.open(PAGES);
    const kept = (await cache.match(request, { ignoreVary: true })) ?? (await cache.match('/for-me'));
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
  else if (isPart(url.pathname)) event.respondWith(part(request));
});

self.addEventListener('message', (event) => {
  const { keep: parts = [], page: here } = event.data ?? {};
  event.waitUntil(
    (async () => {
      for (const address of parts) {
        const url = new URL(address);
        if (url.origin === location.origin && isPart(url.pathname))
          await part(new Request(url)).catch(() => undefined);
      }
      if (here && isKept(new URL(here).pathname)) {
        const response = await fetch(here).catch(() => undefined);
        if (response?.ok && !response.redirected) await keep(PAGES, new Request(here), response, MOST_PAGES);
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
