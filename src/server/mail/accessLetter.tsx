import { Hr, render, Text } from '@react-email/components';
import type { LetterKind } from '../../core/access/letter.ts';
import { MailButton, MailFrame, quiet } from './frame.tsx';

export interface AccessLetter {
  organisation: string;
  kind: LetterKind;
  name: string;
  /** Who invites; null where its reader asked for it. */
  by: string | null;
  /** What whoever invites has written, or what its reader is told of. */
  words: string;
  /** Nothing in a letter that only tells of something. */
  url: string | null;
  /** Until when the link can be used, in its reader's time, with the zone named. */
  until: string;
}

const SUBJECT: Record<LetterKind, (letter: AccessLetter) => string> = {
  invitation: ({ organisation }) => `You are invited to ${organisation}`,
  reset: ({ organisation }) => `Choose a new password for ${organisation}`,
  'sign-in': ({ organisation }) => `Your link to sign in to ${organisation}`,
  told: ({ organisation }) => `Your account at ${organisation} was changed`,
};

const BUTTON: Record<LetterKind, string> = {
  invitation: 'Come in',
  reset: 'Choose a new password',
  'sign-in': 'Sign in',
  told: '',
};

function paragraphs(letter: AccessLetter): string[] {
  const { organisation, kind, by, words, until } = letter;
  switch (kind) {
    case 'invitation':
      return [
        `${by ?? 'A coordinator'} invites you to the boards and announcements of ${organisation}.`,
        ...words.split(/\n+/).filter((line) => line.trim() !== ''),
        `The link is yours alone and can be used once, until ${until}.`,
      ];
    case 'reset':
      return [
        `Somebody, most likely you, asked for a new password. The link can be used once, until ${until}.`,
        'If it was not you, leave this mail alone: nothing changes without the link.',
      ];
    case 'sign-in':
      return [
        `With this link you sign in without a password. It can be used once, until ${until}.`,
        'If you did not ask for it, leave this mail alone: nothing happens without the link.',
      ];
    case 'told':
      return words.split(/\n+/);
  }
}

/** A mail with a link that lets its reader in, or that tells what was done with their account: as HTML and as text. */
export async function layOutAccessLetter(
  letter: AccessLetter,
): Promise<{ subject: string; html: string; text: string }> {
  const subject = SUBJECT[letter.kind](letter);
  const said = [`Hello ${letter.name},`, ...paragraphs(letter)];
  const html = await render(
    <MailFrame organisation={letter.organisation} heading={subject}>
      {said.map((paragraph) => (
        <Text
          key={paragraph}
          dir="auto"
          style={{ fontSize: '16px', lineHeight: '24px', margin: '4px 0 12px' }}
        >
          {paragraph}
        </Text>
      ))}
      {letter.url === null ? null : (
        <>
          <MailButton href={letter.url} words={BUTTON[letter.kind]} />
          <Hr style={{ borderColor: '#D8D0C0' }} />
          <Text style={{ color: quiet, fontSize: '13px', lineHeight: '20px' }}>
            Whoever has the link can come in as you: do not pass this mail on.
          </Text>
        </>
      )}
    </MailFrame>,
  );
  return { subject, html, text: [subject, ...said, letter.url ?? ''].filter(Boolean).join('\n\n') };
}
