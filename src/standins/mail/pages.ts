import { escapeHtml } from '../../core/content/escapeHtml.ts';
import type { ParsedMail } from 'mailparser';
import { MOODS, type CaughtMail, type Mood } from './mood.ts';

const MOOD_WORDS: Record<Mood, string> = {
  well: 'takes everything',
  slow: 'is slow',
  busy: 'says "busy, try again" (451)',
  refusing: 'refuses everybody (550)',
  down: 'is down',
};

const page = (title: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escapeHtml(title)}</title>
<style>
  body { font: 16px/1.5 Verdana, sans-serif; margin: 0 auto; max-width: 62rem; padding: 1.5rem; color: #1D2B2A; background: #F7F4EC; }
  table { border-collapse: collapse; width: 100%; background: #FFFEFA; }
  td, th { border-bottom: 1px solid #D8D0C0; padding: .5rem .75rem; text-align: left; vertical-align: top; }
  a { color: #8A4B12; } button { font: inherit; padding: .25rem .75rem; } form { display: inline; }
  iframe { width: 100%; height: 46rem; border: 1px solid #D8D0C0; background: #fff; } pre { white-space: pre-wrap; overflow-wrap: anywhere; background: #FFFEFA; padding: 1rem; }
</style></head><body><main>${body}</main></body></html>`;

/** The mailbox: what was caught, the latest first, and how the server behaves. */
export function listPage(
  mails: { mail: CaughtMail; parsed: ParsedMail }[],
  state: { mood: Mood; count: number; wanted: string },
): string {
  const moods = MOODS.map((mood) =>
    mood === state.mood
      ? `<strong>${MOOD_WORDS[mood]}</strong>`
      : `<form method="post" action="/mood/${mood}"><button>${MOOD_WORDS[mood]}</button></form>`,
  ).join(' · ');
  const lines = mails
    .map(
      ({ mail, parsed }) =>
        `<tr><td>${new Date(mail.receivedMs).toISOString().slice(0, 19).replace('T', ' ')}</td><td>${escapeHtml(mail.to)}</td><td><a href="/mail/${mail.id}">${escapeHtml(parsed.subject ?? '(no subject)')}</a></td></tr>`,
    )
    .join('');
  return page(
    'Mailbox',
    `<h1>Mailbox</h1><p>A stand-in mail server: it catches everything and delivers nothing. It ${moods}.</p>
<form><label>To <input name="to" value="${escapeHtml(state.wanted)}"></label> <button>Filter</button></form>
<form method="post" action="/empty"><button>Empty the mailbox</button></form>
<p>${state.count} ${state.count === 1 ? 'mail' : 'mails'}${state.count > mails.length ? `, the latest ${mails.length} shown` : ''}.</p>
<table><thead><tr><th>Received (UTC)</th><th>To</th><th>Subject</th></tr></thead><tbody>${lines || '<tr><td colspan="3">Nothing has come yet.</td></tr>'}</tbody></table>`,
  );
}

/** One mail: its headers, the HTML part in a frame, and the text part. */
export function letterPage(mail: CaughtMail, parsed: ParsedMail): string {
  const raw = mail.raw.toString('utf8');
  const headers = raw.slice(0, raw.search(/\r?\n\r?\n/));
  return page(
    parsed.subject ?? 'Mail',
    `<p><a href="/">Mailbox</a></p><h1>${escapeHtml(parsed.subject ?? '(no subject)')}</h1>
<p>To ${escapeHtml(mail.to)}</p><iframe title="The HTML part" sandbox="allow-popups allow-popups-to-escape-sandbox" src="/mail/${mail.id}/body"></iframe>
<h2>Text part</h2><pre>${escapeHtml(parsed.text ?? '')}</pre><h2>Headers</h2><pre>${escapeHtml(headers)}</pre>`,
  );
}
