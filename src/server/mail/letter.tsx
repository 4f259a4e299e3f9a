import { Body, Button, Container, Head, Hr, Html, render, Text } from '@react-email/components';
import type { Content } from '../../core/content/announcement.ts';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import { documentHtml } from '../../core/content/html.ts';
import { documentText, excerpt } from '../../core/content/text.ts';

/** What differs from reader to reader. Links are absolute. */
export interface ReaderFields {
  why: string;
  readUrl: string;
  acknowledgeUrl: string;
  unsubscribeUrl: string;
  deadline: string;
}

export interface LetterFrame {
  content: Content;
  organisation: string;
  asks: boolean;
  hasDeadline: boolean;
  stoppable: boolean;
}

const FIELDS = ['why', 'readUrl', 'acknowledgeUrl', 'unsubscribeUrl', 'deadline'] as const;
const slot = (field: (typeof FIELDS)[number]): string => `\u0001${field}\u0001`;

const ink = '#1D2B2A';
const quiet = '#566460';
const serifless = 'Verdana, Geneva, sans-serif';

const button = (colour: string): React.CSSProperties => ({
  backgroundColor: colour,
  color: '#FFFEFA',
  padding: '14px 22px',
  borderRadius: '4px',
  fontSize: '16px',
  fontWeight: 'bold',
  textDecoration: 'none',
  display: 'inline-block',
});

function Letter({ content, organisation, asks, hasDeadline, stoppable }: LetterFrame): React.ReactElement {
  const small: React.CSSProperties = {
    fontSize: '13px',
    lineHeight: '20px',
    color: quiet,
    margin: '0 0 8px',
  };
  const link: React.CSSProperties = { color: '#8A4B12' };
  return (
    <Html lang="en">
      <Head />
      <Body
        style={{
          backgroundColor: '#F7F4EC',
          color: ink,
          fontFamily: serifless,
          margin: 0,
          padding: '24px 0',
        }}
      >
        {/* What mail programs show beside the subject. */}
        <div style={{ display: 'none', overflow: 'hidden', lineHeight: '1px', maxHeight: 0, opacity: 0 }}>
          {excerpt(content.document, 120)}
        </div>
        <Container
          style={{
            backgroundColor: '#FFFEFA',
            border: '1px solid #D8D0C0',
            padding: '28px',
            maxWidth: '620px',
          }}
        >
          <Text style={small}>{[organisation, content.byline].filter(Boolean).join(' · ')}</Text>
          {content.importance === 'routine' ? null : (
            <Text
              style={{
                ...small,
                color: content.importance === 'urgent' ? '#A3312B' : '#7A5200',
                fontWeight: 'bold',
              }}
            >
              {content.importance === 'urgent' ? 'Urgent' : 'Important'}
            </Text>
          )}
          <h1 style={{ fontSize: '26px', lineHeight: '32px', margin: '0 0 16px' }} dir="auto">
            {content.title}
          </h1>
          <div
            dir="auto"
            style={{ fontSize: '16px', lineHeight: '25px' }}
            // Our own renderer's output: escaped, and nothing but the few tags of the document model.
            dangerouslySetInnerHTML={{ __html: documentHtml(content.document) }}
          />
          {content.button ? (
            <Text style={{ margin: '24px 0' }}>
              <Button href={content.button.url} style={button('#34506B')}>
                {content.button.label}
              </Button>
            </Text>
          ) : null}
          {asks ? (
            <>
              <Text style={{ margin: '24px 0 8px' }}>
                <Button href={slot('acknowledgeUrl')} style={button('#8A4B12')}>
                  Acknowledge
                </Button>
              </Text>
              <Text style={small}>
                {hasDeadline
                  ? `Please acknowledge by ${slot('deadline')}. `
                  : 'Please acknowledge that you have read this. '}
                No sign-in is needed.
              </Text>
            </>
          ) : null}
          <Hr style={{ borderColor: '#D8D0C0', margin: '24px 0 16px' }} />
          <Text style={small}>{slot('why')}</Text>
          <Text style={small}>
            <a href={slot('readUrl')} style={link}>
              Read it in Clear Bell
            </a>
            {stoppable ? (
              <>
                {' · '}
                <a href={slot('unsubscribeUrl')} style={link}>
                  Stop mail of this kind
                </a>
              </>
            ) : null}
          </Text>
        </Container>
      </Body>
    </Html>
  );
}

function textPart({ content, organisation, asks, hasDeadline, stoppable }: LetterFrame): string {
  return [
    [organisation, content.byline].filter(Boolean).join(' · '),
    content.importance === 'routine' ? '' : content.importance.toUpperCase(),
    content.title,
    documentText(content.document),
    content.button ? `${content.button.label}: ${content.button.url}` : '',
    asks
      ? `${hasDeadline ? `Please acknowledge by ${slot('deadline')}` : 'Please acknowledge that you have read this'} (no sign-in needed):\n${slot('acknowledgeUrl')}`
      : '',
    `-- \n${slot('why')}\nRead it in Clear Bell: ${slot('readUrl')}`,
    stoppable ? `Stop mail of this kind: ${slot('unsubscribeUrl')}` : '',
  ]
    .filter(Boolean)
    .join('\n\n');
}

/** Splits a text at its slots once, so that filling it in for ten thousand readers is only joining. */
function fillable(text: string, encode: (value: string) => string): (fields: ReaderFields) => string {
  // eslint-disable-next-line no-control-regex -- the slots are marked with a character no author can write
  const parts = text.split(/\u0001(\w+)\u0001/);
  return (fields) =>
    parts
      .map((part, i) => {
        const field = i % 2 === 1 ? FIELDS.find((each) => each === part) : undefined;
        return field ? encode(fields[field]) : part;
      })
      .join('');
}

/** A letter laid out once for an announcement; filling it in for a reader gives both parts of the mail. */
export type LaidOutLetter = (fields: ReaderFields) => { html: string; text: string };

export async function layOutLetter(frame: LetterFrame): Promise<LaidOutLetter> {
  const html = fillable(await render(<Letter {...frame} />), escapeHtml);
  const text = fillable(textPart(frame), (value) => value);
  return (fields) => ({ html: html(fields), text: text(fields) });
}
