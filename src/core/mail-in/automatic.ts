import { headerOf, type MailHeaders } from './headers.ts';

/** What a mail is that nobody wrote: an answer sent by itself, a report of what came back, or what goes to many. */
export type Automatic = 'automatic answer' | 'report' | 'made by a machine' | 'sent to many';

/**
 * Whether a mail was written by somebody, or what else it is (RFC 3834 sections 2 and 5; RFC 3464 for reports). What a machine
 * makes of its own accord is told apart from an answer: a system that is listed may send the one, nobody may send the other.
 *
 * @param sender the address of the envelope (RFC 5321 MAIL FROM), empty for what must never be answered
 */
export function automaticKind(headers: MailHeaders, sender: string): Automatic | null {
  const type = headerOf(headers, 'content-type')?.toLowerCase() ?? '';
  if (type.startsWith('multipart/report') || type.startsWith('message/delivery-status')) return 'report';
  const submitted =
    headerOf(headers, 'auto-submitted')
      ?.toLowerCase()
      .split(/[\s;(]/)[0] ?? 'no';
  const precedence = headerOf(headers, 'precedence')?.trim().toLowerCase() ?? '';
  if (
    sender === '' ||
    submitted.startsWith('auto-replied') ||
    submitted.startsWith('auto-notified') ||
    precedence === 'auto_reply' ||
    headerOf(headers, 'x-autoreply') !== undefined ||
    headerOf(headers, 'x-autorespond') !== undefined
  )
    return 'automatic answer';
  if (submitted !== 'no') return 'made by a machine';
  if (['bulk', 'list', 'junk'].includes(precedence) || headerOf(headers, 'list-id') !== undefined)
    return 'sent to many';
  return null;
}

/** More than so many servers handed it on: it goes in a circle (RFC 5321 section 6.3). */
const MOST_HOPS = 30;

/** Whether a mail goes in a circle: it has passed here before, or too many servers. */
export const isLoop = (headers: MailHeaders, ourDomain: string): boolean =>
  headers.filter(({ name }) => name === 'received').length > MOST_HOPS ||
  headers.some(({ name, value }) => name === 'x-loop' && value.trim().toLowerCase() === ourDomain);
