import { Hr, render, Text } from '@react-email/components';
import { MailButton, MailFrame, quiet } from './frame.tsx';

/** What a mail tells of: one thing, or what gathered in a day. */
export interface NoticeLetter {
  organisation: string;
  heading: string;
  items: { title: string; text: string; why: string; url: string; when: string }[];
  /** Whether an answer to the mail becomes a reply to the post it tells of. */
  answers: boolean;
  settingsUrl: string;
  stopUrl: string;
}

const ANSWER = 'Answer this mail, and what you write stands as your reply under the post.';

function Letter({ organisation, heading, items, answers, settingsUrl, stopUrl }: NoticeLetter) {
  return (
    <MailFrame organisation={organisation} heading={heading}>
      {items.map((item) => (
        <div key={item.url + item.title} style={{ margin: '0 0 20px' }}>
          {items.length > 1 ? (
            <h2 dir="auto" style={{ fontSize: '17px', lineHeight: '23px', margin: '0' }}>
              <a href={item.url} style={{ color: '#8A4B12' }}>
                {item.title}
              </a>
            </h2>
          ) : null}
          <Text dir="auto" style={{ fontSize: '16px', lineHeight: '24px', margin: '4px 0' }}>
            {item.text}
          </Text>
          <Text style={{ color: quiet, fontSize: '13px', margin: '2px 0' }}>
            {item.when}. {item.why}
          </Text>
          {items.length === 1 ? <MailButton href={item.url} words="Open it" /> : null}
        </div>
      ))}
      {answers ? <Text style={{ fontSize: '15px', lineHeight: '22px' }}>{ANSWER}</Text> : null}
      <Hr style={{ borderColor: '#D8D0C0' }} />
      <Text style={{ color: quiet, fontSize: '13px', lineHeight: '20px' }}>
        You chose to be told of this by mail. <a href={settingsUrl}>Change what you are told of</a>, or{' '}
        <a href={stopUrl}>stop these mails</a>.
      </Text>
    </MailFrame>
  );
}

/** A mail that tells somebody of something, as HTML and as plain text. */
export async function layOutNotice(letter: NoticeLetter): Promise<{ html: string; text: string }> {
  const text = [
    letter.heading,
    ...letter.items.map((item) =>
      [letter.items.length > 1 ? item.title : '', item.text, `${item.when}. ${item.why}`, item.url]
        .filter(Boolean)
        .join('\n'),
    ),
    ...(letter.answers ? [ANSWER] : []),
    `You chose to be told of this by mail. Change what you are told of: ${letter.settingsUrl}\nStop these mails: ${letter.stopUrl}`,
  ].join('\n\n');
  return { html: await render(<Letter {...letter} />), text };
}
