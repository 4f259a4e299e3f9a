import { escapeHtml } from '../../core/content/escapeHtml.ts';
import type { ParsedMail } from 'mailparser';
import { moodLine, page, utc } from '../page.ts';
import type { CaughtMail, Mood } from './mood.ts';

const MOOD_WORDS: Record<Mood, string> = {
  well: 'takes everything',
  slow: 'is slow',
  busy: 'says "busy, try again" (451)',
  refusing: 'refuses everybody (550)',
  down: 'is down',
};

/** The mailbox: what was caught, the latest first, and how the server behaves. */
export function listPage(
  mails: { mail: CaughtMail; parsed: ParsedMail }[],
  state: { mood: Mood; count: number; wanted: string },
): string {
  const moods = moodLine(state.mood, MOOD_WORDS);
  const lines = mails
    .map(
      ({ mail, parsed }) =>
        `<tr><td>${utc(mail.receivedMs)}</td><td>${escapeHtml(mail.to)}</td><td><a href="/mail/${mail.id}">${escapeHtml(parsed.subject ?? '(no subject)')}</a></td></tr>`,
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
