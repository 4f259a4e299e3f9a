import { Hr, Link, render, Text } from '@react-email/components';
import { MailFrame, quiet } from './frame.tsx';

export interface Confirmation {
  organisation: string;
  name: string;
  title: string;
  /** When, on its reader's clock with the zone named. */
  when: string;
  place: string;
  link: string | null;
  /** Whose link it came through. */
  sharedBy: string;
  /** `first` confirms; `changed` and `off` tell what became of it since. */
  kind: 'first' | 'changed' | 'off';
  /** Where its reader takes their name off. */
  withdrawUrl: string;
}

const SUBJECT: Record<Confirmation['kind'], string> = {
  first: 'You are signed up',
  changed: 'It has changed',
  off: 'Taken back',
};

/** The mail to somebody who signed up for an event: as HTML and as text. The event goes with it as an iCalendar file. */
export async function layOutConfirmation(
  of: Confirmation,
): Promise<{ subject: string; html: string; text: string }> {
  const subject = `${SUBJECT[of.kind]}: ${of.title}`;
  const said = [
    `Hello ${of.name},`,
    ...(of.kind === 'off'
      ? ['What you had signed up for was taken back: it does not take place as you were told.']
      : [
          of.kind === 'first'
            ? `You are signed up. ${of.sharedBy} passed it on to you.`
            : 'You are signed up, and something has changed. This is how it is now.',
          of.when,
          ...(of.place === '' ? [] : [of.place]),
        ]),
  ];
  const html = await render(
    <MailFrame organisation={of.organisation} heading={subject}>
      {said.map((paragraph) => (
        <Text
          key={paragraph}
          dir="auto"
          style={{ fontSize: '16px', lineHeight: '24px', margin: '4px 0 12px' }}
        >
          {paragraph}
        </Text>
      ))}
      {of.kind === 'off' ? null : (
        <>
          {of.link === null ? null : (
            <Text style={{ fontSize: '16px', lineHeight: '24px', margin: '4px 0 12px' }}>
              <Link href={of.link}>{of.link}</Link>
            </Text>
          )}
          <Hr style={{ borderColor: '#D8D0C0' }} />
          <Text style={{ color: quiet, fontSize: '13px', lineHeight: '20px' }}>
            You cannot come, or it was not you who signed up?{' '}
            <Link href={of.withdrawUrl}>Take the name off</Link>.
          </Text>
        </>
      )}
    </MailFrame>,
  );
  const text = [
    subject,
    ...said,
    ...(of.kind === 'off'
      ? []
      : [of.link ?? '', `You cannot come, or it was not you? Take the name off: ${of.withdrawUrl}`]),
  ];
  return { subject, html, text: text.filter(Boolean).join('\n\n') };
}
