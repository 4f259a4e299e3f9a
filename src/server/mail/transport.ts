import { createPrivateKey } from 'node:crypto';
import { readFileSync } from 'node:fs';
import nodemailer from 'nodemailer';
import type { Failure } from '../../core/delivery/retry.ts';
import type { Settings } from '../settings.ts';

/** One mail, ready to be handed over (RFC 5322). */
export interface Mail {
  messageId: string;
  fromName: string;
  toName: string;
  to: string;
  subject: string;
  html: string;
  text: string;
  urgent: boolean;
  /** Of what comes again and again (RFC 2919); null for a mail to one person. */
  listId: string | null;
  /** For one-click unsubscribing (RFC 8058); null for what may not be unsubscribed. */
  unsubscribeUrl: string | null;
  /** An event for the reader's calendar, as an iCalendar file. */
  calendar: string | null;
  /** Where an answer goes; to nobody where it is not set. */
  replyTo?: string | undefined;
  /** Where what comes back of it goes (RFC 5321 MAIL FROM); to the address it comes from where it is not set. */
  returnTo?: string | undefined;
  /** Attachments that travel in the mail itself. */
  files?: readonly MailFile[];
}

export interface MailFile {
  name: string;
  mime: string;
  bytes: Buffer;
}

/** Hands mail over to the mail server; throws what the server said. */
export interface MailTransport {
  send(mail: Mail): Promise<void>;
  close(): void;
}

/** What mail is signed with (DKIM, RFC 6376); the key as PEM. */
export interface MailSigning {
  domainName: string;
  keySelector: string;
  privateKey: string;
}

/**
 * What mail is signed with by the settings; nothing where it is not signed here.
 *
 * @throws an error that names the settings where only some are set, or the key cannot be read or used
 */
export function mailSigning({
  MAIL_DKIM_DOMAIN: domainName,
  MAIL_DKIM_SELECTOR: keySelector,
  MAIL_DKIM_KEY_FILE: file,
}: Pick<Settings, 'MAIL_DKIM_DOMAIN' | 'MAIL_DKIM_SELECTOR' | 'MAIL_DKIM_KEY_FILE'>):
  MailSigning | undefined {
  if (domainName === undefined && keySelector === undefined && file === undefined) return undefined;
  if (domainName === undefined || keySelector === undefined || file === undefined)
    throw new Error('Set all of MAIL_DKIM_DOMAIN, MAIL_DKIM_SELECTOR and MAIL_DKIM_KEY_FILE, or none.');
  try {
    const privateKey = readFileSync(file, 'utf8');
    createPrivateKey(privateKey);
    return { domainName, keySelector, privateKey };
  } catch (error) {
    throw new Error(
      `MAIL_DKIM_KEY_FILE must be a file with a private key in PEM that can be read: ${error instanceof Error ? error.message : String(error)}`,
      { cause: error },
    );
  }
}

export function mailTransport(
  mailUrl: string,
  from: string,
  connections: number,
  signing?: MailSigning,
): MailTransport {
  const address = new URL(mailUrl);
  const transport = nodemailer.createTransport({
    pool: true,
    host: address.hostname,
    port: Number(address.port || (address.protocol === 'smtps:' ? 465 : 587)),
    secure: address.protocol === 'smtps:',
    ...(address.username
      ? { auth: { user: decodeURIComponent(address.username), pass: decodeURIComponent(address.password) } }
      : {}),
    maxConnections: connections,
    maxMessages: 1000,
    connectionTimeout: 10_000,
    greetingTimeout: 10_000,
    socketTimeout: 20_000,
    tls: { rejectUnauthorized: true },
    ...(signing ? { dkim: signing } : {}),
  });
  return {
    async send(mail) {
      await transport.sendMail({
        messageId: mail.messageId,
        from: { name: mail.fromName, address: from },
        to: { name: mail.toName, address: mail.to },
        subject: mail.subject,
        ...(mail.replyTo === undefined ? {} : { replyTo: mail.replyTo }),
        ...(mail.returnTo === undefined ? {} : { envelope: { from: mail.returnTo, to: mail.to } }),
        html: mail.html,
        text: mail.text,
        ...(mail.urgent ? { priority: 'high' as const } : {}),
        attachments: [
          ...(mail.calendar === null
            ? []
            : [
                {
                  filename: 'event.ics',
                  content: mail.calendar,
                  contentType: 'text/calendar; charset=utf-8; method=PUBLISH',
                },
              ]),
          ...(mail.files ?? []).map((file) => ({
            filename: file.name,
            content: file.bytes,
            contentType: file.mime,
          })),
        ],
        headers: {
          'Auto-Submitted': 'auto-generated',
          // So that what is handed back to us by mistake is known.
          ...(mail.returnTo === undefined ? {} : { 'X-Loop': mail.returnTo.split('@')[1] ?? '' }),
          ...(mail.listId === null ? {} : { 'List-Id': mail.listId }),
          ...(mail.unsubscribeUrl === null
            ? {}
            : {
                'List-Unsubscribe': `<${mail.unsubscribeUrl}>`,
                'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click',
              }),
        },
      });
    },
    close: () => transport.close(),
  };
}

/** What a failed hand-over means. */
export function failureOf(error: unknown): Failure {
  const message = error instanceof Error ? error.message : String(error);
  const fields = (error instanceof Error ? error : {}) as { responseCode?: unknown; code?: unknown };
  const said = message.replace(/\s+/g, ' ').slice(0, 250);
  if (fields.code === 'EAUTH')
    return { kind: 'unreachable', reason: `The mail server did not let Clear Bell sign in: ${said}` };
  if (typeof fields.responseCode === 'number')
    return {
      kind: fields.responseCode >= 500 ? 'refused' : 'temporary',
      reason: `The mail server said: ${said}`,
    };
  const unreachable = [
    'ECONNECTION',
    'ECONNREFUSED',
    'ESOCKET',
    'EDNS',
    'ETIMEDOUT',
    'ECONNRESET',
    'ENOTFOUND',
  ];
  if (typeof fields.code === 'string' && unreachable.includes(fields.code))
    return { kind: 'unreachable', reason: `The mail server cannot be reached: ${said}` };
  return { kind: 'temporary', reason: said };
}
