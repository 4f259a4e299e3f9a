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
<p><a href="/write">Write a mail</a> to the desk, as somebody with a mail program does.</p>
<form method="post" action="/empty"><button>Empty the mailbox</button></form>
<p>${state.count} ${state.count === 1 ? 'mail' : 'mails'}${state.count > mails.length ? `, the latest ${mails.length} shown` : ''}.</p>
<table><thead><tr><th>Received (UTC)</th><th>To</th><th>Subject</th></tr></thead><tbody>${lines || '<tr><td colspan="3">Nothing has come yet.</td></tr>'}</tbody></table>`,
  );
}

/** One mail: its headers, the HTML part in a frame, and the text part. */
export function letterPage(mail: CaughtMail, parsed: ParsedMail, domain: string | undefined): string {
  const raw = mail.raw.toString('utf8');
  const headers = raw.slice(0, raw.search(/\r?\n\r?\n/));
  const replyTo = parsed.replyTo?.value[0]?.address;
  const answer =
    domain === undefined || replyTo === undefined
      ? ''
      : `<a href="/write?${escapeHtml(
          new URLSearchParams({
            from: mail.to,
            to: replyTo,
            subject: `Re: ${parsed.subject ?? ''}`,
            text: `\n\nOn ${utc(mail.receivedMs)}, the desk wrote:\n${(parsed.text ?? '').replace(/^/gm, '> ')}`,
          }).toString(),
        )}">Answer it</a> `;
  const back =
    domain !== undefined && mail.from.endsWith(`@${domain}`)
      ? `<form method="post" action="/mail/${mail.id}/come-back"><button>Let it come back: no such mailbox</button></form>`
      : '';
  return page(
    parsed.subject ?? 'Mail',
    `<p><a href="/">Mailbox</a></p><h1>${escapeHtml(parsed.subject ?? '(no subject)')}</h1>
<p>To ${escapeHtml(mail.to)}</p><p>${answer}${back}</p><iframe title="The HTML part" sandbox="allow-popups allow-popups-to-escape-sandbox" src="/mail/${mail.id}/body"></iframe>
<h2>Text part</h2><pre>${escapeHtml(parsed.text ?? '')}</pre><h2>Headers</h2><pre>${escapeHtml(headers)}</pre>`,
  );
}

/** What was answered to something that was handed on. */
export const saidPage = (said: string): string =>
  page('Handed on', `<p><a href="/">Mailbox</a></p><h1>Handed on</h1><p>${escapeHtml(said)}</p>`);

const line = (name: string, label: string, value: string | undefined): string =>
  `<p><label>${label}<br><input name="${name}" size="60" value="${escapeHtml(value ?? '')}"></label></p>`;

/** A mail to be written, with what was answered to the last. */
export const writePage = (given: Record<string, string | undefined>, said?: string): string =>
  page(
    'Write a mail',
    `<p><a href="/">Mailbox</a></p><h1>Write a mail</h1>${said === undefined ? '' : `<p><strong>${escapeHtml(said)}</strong></p>`}
<p>It is handed on to the desk as its mail server would: with what was found of its sender.</p>
<form method="post" action="/write" style="display:block">${line('from', 'From', given.from)}${line('to', 'To', given.to)}${line('subject', 'Subject', given.subject)}
<p><label>Text<br><textarea name="text" rows="12" cols="70">${escapeHtml(given.text ?? '')}</textarea></label></p>
<p><label><input type="radio" name="proven" value="yes" checked> it is proved to come from there</label> <label><input type="radio" name="proven" value="no"> it is not</label></p>
<button>Send it</button></form>`,
  );
