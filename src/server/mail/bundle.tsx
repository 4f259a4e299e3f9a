import { Text, render } from '@react-email/components';
import { MailFrame, quiet } from './frame.tsx';
import type { FilledLetter } from './letter.tsx';

/** What of a bundle is the same for all who get the same announcements in one. */
export interface BundleFrame {
  organisation: string;
  /** What each part is called, and whether it asks for something, in the order they stand. */
  parts: readonly { title: string; asks: boolean }[];
  settingsUrl: string;
}

export const bundleHeading = (n: number): string => `${n} announcements for you`;

const asksWords = ' (asks for an answer)';

/** Lays out a mail that holds several announcements, with a table of contents; filling it in takes each part's letter. */
export async function layOutBundle({
  organisation,
  parts,
  settingsUrl,
}: BundleFrame): Promise<(letters: readonly FilledLetter[]) => { html: string; text: string }> {
  const heading = bundleHeading(parts.length);
  const frame = await render(
    <MailFrame organisation={organisation} heading={heading}>
      <ol style={{ fontSize: '16px', lineHeight: '25px', paddingLeft: '22px', margin: '0 0 8px' }}>
        {parts.map((part, i) => (
          <li key={i} dir="auto">
            <a href={`#part-${i + 1}`} style={{ color: '#8A4B12' }}>
              {part.title}
            </a>
            {part.asks ? asksWords : ''}
          </li>
        ))}
      </ol>
      {parts.map((_, i) => (
        <div
          key={i}
          id={`part-${i + 1}`}
          style={{ borderTop: '3px solid #1D2B2A', marginTop: '24px', paddingTop: '20px' }}
        >
          {'\u0002'}
        </div>
      ))}
      <Text style={{ color: quiet, fontSize: '13px', lineHeight: '20px', margin: '24px 0 0' }}>
        Routine announcements come to you together. When they come, or each as it comes, is yours to choose in
        the{' '}
        <a href={settingsUrl} style={{ color: '#8A4B12' }}>
          settings
        </a>
        .
      </Text>
    </MailFrame>,
  );
  const pieces = frame.split('\u0002');
  const contents = parts.map((part, i) => `${i + 1}. ${part.title}${part.asks ? asksWords : ''}`).join('\n');
  return (letters) => ({
    html: pieces
      .map((piece, i) => `${piece}${i < letters.length ? asPart(letters[i]?.within ?? '') : ''}`)
      .join(''),
    text: [
      heading,
      contents,
      ...letters.map((letter, i) => `${'='.repeat(60)}\n${i + 1}.\n\n${letter.text}`),
      `${'='.repeat(60)}\nRoutine announcements come to you together. Choose when, or each as it comes: ${settingsUrl}`,
    ].join('\n\n'),
  });
}

/** What stands in a letter, as a part of another: its title is a heading under that of the whole. */
const asPart = (within: string): string => within.replace('<h1', '<h2').replace('</h1>', '</h2>');
