import { escapeHtml } from '../../core/content/escapeHtml.ts';
import type { Mood } from '../mail/mood.ts';
import { moodLine, page, utc } from '../page.ts';
import type { PushedMessage } from './message.ts';

/** The devices and what was pushed to them, the latest first. */
export function pushPage(
  mood: Mood,
  devices: readonly { id: string; label: string; gone: boolean }[],
  messages: readonly PushedMessage[],
): string {
  const moods = moodLine(mood, {
    well: 'takes everything',
    slow: 'is slow',
    busy: 'says "later" (429)',
    refusing: 'refuses (403)',
    down: 'is down',
  });
  const owned = devices
    .map(
      ({ id, label, gone }) =>
        `<li>${escapeHtml(label)} ${gone ? '(gone)' : `<form method="post" action="/gone/${id}"><button>Throw this device away</button></form>`}</li>`,
    )
    .join('');
  const lines = messages
    .map((message) => {
      const { title, text, path, why } = JSON.parse(message.text) as Record<string, string>;
      return `<tr><td>${utc(message.atMs)}</td><td>${escapeHtml(message.label)}</td><td><strong>${escapeHtml(title ?? '')}</strong><br>${escapeHtml(text ?? '')}<br><small>${escapeHtml(why ?? '')}</small></td><td>${escapeHtml(path ?? '')}</td><td>${escapeHtml(message.urgency)}</td></tr>`;
    })
    .join('');
  return page(
    'Devices',
    `<h1>Devices</h1><p>A stand-in push service that also plays the devices. It ${moods}.</p>
<ul>${owned || '<li>No device yet. In Clear Bell, connect a practice device under Notices.</li>'}</ul>
<table><thead><tr><th>Pushed (UTC)</th><th>To</th><th>Message</th><th>Leads to</th><th>Urgency</th></tr></thead><tbody>${lines || '<tr><td colspan="5">Nothing has come yet.</td></tr>'}</tbody></table>`,
  );
}
