import { createHash } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import type { Mood } from '../mail/mood.ts';
import { MOODS } from '../mail/mood.ts';
import { moodLine, page, utc } from '../page.ts';
import { AS_PLANNED, siteCalendar, type SiteCalendar } from './calendar.ts';

const SLOW_MS = 4_000;
const KEPT = 200;
const CALENDAR_CHANGES: Record<string, (before: SiteCalendar) => SiteCalendar> = {
  later: (before) => ({ ...before, hour: Math.min(21, before.hour + 1) }),
  off: (before) => ({ ...before, off: true }),
  planned: () => AS_PLANNED,
};

export interface Conditions {
  place: string;
  /** The hour they are of, in UTC. */
  hour: string;
  river: { level: number; rising: boolean };
  frost: boolean;
  temperature: number;
}

/** Conditions at a place in an hour: made up, and always the same for both. */
export function conditionsAt(place: string, ms: number): Conditions {
  const hour = `${new Date(ms).toISOString().slice(0, 13)}:00Z`;
  const [a = 0, b = 0, c = 0] = createHash('sha256').update(`${place.trim().toLowerCase()} ${hour}`).digest();
  const temperature = Math.round((a / 255) * 240 - 60) / 10;
  return {
    place,
    hour,
    river: { level: Math.round(60 + (b / 255) * 340) / 100, rising: c % 2 === 0 },
    frost: temperature < 1,
    temperature,
  };
}

/** A service for conditions at the collecting sites: `GET /conditions?place=…`. It can be told to be slow or to fail. */
export async function startConditionsStandIn(port: number): Promise<{ stop: () => Promise<void> }> {
  let mood: Mood = 'well';
  let calendar = AS_PLANNED;
  const asked: { atMs: number; place: string }[] = [];

  const json = (response: ServerResponse, status: number, body: unknown): void => {
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
  };
  async function answer(place: string, response: ServerResponse): Promise<void> {
    asked.unshift({ atMs: Date.now(), place });
    asked.length = Math.min(asked.length, KEPT);
    if (mood === 'slow') await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
    if (mood === 'busy') json(response, 503, { detail: 'Later.' });
    else if (mood === 'refusing') json(response, 403, { detail: 'No.' });
    else if (place.trim() === '') json(response, 400, { detail: 'Say which place.' });
    else json(response, 200, conditionsAt(place, Date.now()));
  }
  const answerCalendar = (request: IncomingMessage, response: ServerResponse): void => {
    const text = siteCalendar(calendar);
    const etag = `"${createHash('sha256')
      .update(text.replace(/^DTSTAMP.*$/gm, ''))
      .digest('base64url')}"`;
    const same = request.headers['if-none-match'] === etag;
    if (mood === 'busy' || mood === 'refusing') response.writeHead(mood === 'busy' ? 503 : 403).end();
    else if (same) response.writeHead(304, { etag }).end();
    else response.writeHead(200, { 'content-type': 'text/calendar; charset=utf-8', etag }).end(text);
  };
  const shown = (): string =>
    page(
      'Conditions',
      `<h1>Conditions at the collecting sites</h1><p>A stand-in service. It ${moodLine(mood, {
        well: 'answers',
        slow: 'is slow',
        busy: 'says "later" (503)',
        refusing: 'refuses (403)',
        down: 'is down',
      })}.</p><p>Ask it: <code>/conditions?place=Sant Elm</code></p>
<h2>Their calendar</h2><p><a href="/calendar.ics">/calendar.ics</a>: the river walk is at ${calendar.hour}:00 in Madrid${calendar.off ? ', and called off' : ''}.
<form method="post" action="/calendar/later"><button>An hour later</button></form>
<form method="post" action="/calendar/off"><button>Call it off</button></form>
<form method="post" action="/calendar/planned"><button>As planned</button></form></p>
<h2>Asked</h2><table><thead><tr><th>Asked (UTC)</th><th>For</th></tr></thead><tbody>${asked
        .map((each) => `<tr><td>${utc(each.atMs)}</td><td>${escapeHtml(each.place)}</td></tr>`)
        .join('')}</tbody></table>`,
    );

  const server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', `http://localhost:${port}`);
    if (request.method === 'POST' && url.pathname.startsWith('/mood/')) {
      mood = MOODS.find((each) => url.pathname === `/mood/${each}`) ?? mood;
      response.writeHead(303, { location: '/' }).end();
    } else if (url.pathname === '/conditions') {
      if (mood === 'down') request.socket.destroy();
      else void answer(url.searchParams.get('place') ?? '', response);
    } else if (url.pathname === '/calendar.ics') {
      if (mood === 'down') request.socket.destroy();
      else answerCalendar(request, response);
    } else if (request.method === 'POST' && url.pathname.startsWith('/calendar/')) {
      const change = CALENDAR_CHANGES[url.pathname.slice('/calendar/'.length)];
      if (change) calendar = change(calendar);
      response.writeHead(303, { location: '/' }).end();
    } else response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(shown());
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return {
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
