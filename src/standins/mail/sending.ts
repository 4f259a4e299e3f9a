import nodemailer from 'nodemailer';
import type { CaughtMail } from './mood.ts';

/** Where mail is handed on to, as a mail server in front of the application does. */
export interface HandOn {
  port: number;
  domain: string;
  /** The name under which it writes what it found of a sender. */
  server: string;
}

export interface Written {
  from: string;
  to: string;
  subject: string;
  text: string;
  /** Whether it could prove that the mail comes from where it says. */
  proven: boolean;
}

const hand = async (
  { port }: HandOn,
  envelope: { from: string; to: string },
  raw: string,
): Promise<string> => {
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port, secure: false, ignoreTLS: true });
  try {
    const { response } = await transport.sendMail({ envelope, raw });
    return `It was taken: ${response}`;
  } catch (error) {
    return `It was refused: ${error instanceof Error ? error.message : String(error)}`;
  } finally {
    transport.close();
  }
};

/** Hands on a mail that somebody wrote, with what was found of its sender (RFC 8601); says what the receiver answered. */
export async function handOn(on: HandOn, mail: Written): Promise<string> {
  const composer = nodemailer.createTransport({ streamTransport: true, buffer: true });
  const { message } = await composer.sendMail({
    from: mail.from,
    to: mail.to,
    subject: mail.subject,
    text: mail.text,
  });
  const results = `Authentication-Results: ${on.server};\r\n dmarc=${mail.proven ? 'pass' : 'fail'} header.from=${mail.from.split('@').at(-1) ?? ''}\r\n`;
  return hand(on, { from: mail.from, to: mail.to }, results + (message as Buffer).toString('utf8'));
}

/** Lets a mail that was caught come back, as a mail server does that knows no such mailbox (RFC 3464). */
export function comeBack(on: HandOn, mail: CaughtMail): Promise<string> {
  const lines = [
    `From: Mail system <mailer-daemon@${on.server}>`,
    `To: <${mail.from}>`,
    'Subject: Undelivered mail returned to sender',
    `Message-ID: <back.${mail.id}.${mail.receivedMs}@${on.server}>`,
    'Auto-Submitted: auto-replied',
    'MIME-Version: 1.0',
    'Content-Type: multipart/report; report-type=delivery-status; boundary="part"',
    '',
    '--part',
    'Content-Type: text/plain; charset=utf-8',
    '',
    `Your mail to ${mail.to} could not be delivered: there is no such mailbox.`,
    '',
    '--part',
    'Content-Type: message/delivery-status',
    '',
    `Reporting-MTA: dns; ${on.server}`,
    '',
    `Final-Recipient: rfc822; ${mail.to}`,
    'Action: failed',
    'Status: 5.1.1',
    'Diagnostic-Code: smtp; 550 5.1.1 No such mailbox here',
    '',
    '--part--',
    '',
  ];
  return hand(on, { from: '', to: mail.from }, lines.join('\r\n'));
}
