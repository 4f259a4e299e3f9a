import { Body, Button, Container, Head, Hr, Html, render, Text } from '@react-email/components';
import type { Content } from '../../core/content/announcement.ts';
import { escapeHtml } from '../../core/content/escapeHtml.ts';
import { SAID } from '../../core/calendar/session.ts';
import { SAY_WORDS } from '../../core/calendar/words.ts';
import { eventLink } from '../../core/content/event.ts';
import type { Reader } from '../../core/content/field.ts';
import { fillFor, sectionsHtml, type Address, type FillField } from '../../core/content/html.ts';
import { imagePath, type Image } from '../../core/content/section.ts';
import { excerpt, sectionsText } from '../../core/content/text.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';

/** What differs from reader to reader. Links are absolute. */
export interface ReaderFields {
  why: string;
  readUrl: string;
  answerUrl: string;
  unsubscribeUrl: string;
  deadline: string;
  /** The reader's own link to pass on, under which others sign up. */
  passOnUrl: string;
  /** Where they say whether they come, where it is of a date of the calendar. */
  comingUrl: string;
  reader: Reader;
}

/** What a letter asks and how it is answered from it. */
export interface LetterAsk {
  /** What stands on the button: "Acknowledge", "Vote", "Check in". */
  deed: string;
  /** What one agrees to, or the question of a poll; may be empty. */
  says: string;
  /** A button for each choice, where one press says it all. */
  choices: { id: number; words: string }[];
  /** What to do, as the sentence before the deadline: "Please vote". */
  please: string;
}

export interface LetterFrame {
  content: Content;
  organisation: string;
  /** What is asked, or null. */
  ask: LetterAsk | null;
  hasDeadline: boolean;
  stoppable: boolean;
  /** What stands over every issue of its series. */
  banner: Image | null;
  /** Where the picture of the sender it stands under is read from a mail; null where there is none. */
  senderPicture: string | null;
  /** Where readers reach the application, without a slash at the end. */
  publicUrl: string;
  /** What gives the uploads of the text, and the banner, addresses by which they can be read from a mail. */
  address: Address;
  bannerAddress: Address;
}

const SLOTS = [
  'why',
  'readUrl',
  'answerUrl',
  'unsubscribeUrl',
  'deadline',
  'passOnUrl',
  'comingUrl',
] as const;
const slot = (field: (typeof SLOTS)[number] | 'when' | `field${number}`): string => `\u0001${field}\u0001`;

/** Marks, in a letter as it is rendered, where what stands in its frame begins and ends. */
const EDGE = '\u0002';

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

const small: React.CSSProperties = {
  fontSize: '13px',
  lineHeight: '20px',
  color: quiet,
  margin: '0 0 8px',
};
const link: React.CSSProperties = { color: '#8A4B12' };

function EventPart({ event }: { event: NonNullable<Content['event']> }): React.ReactElement {
  return (
    <Text style={{ margin: '0 0 22px', fontSize: '16px', lineHeight: '25px' }}>
      <strong>{slot('when')}</strong>
      {event.place.trim() === '' ? null : (
        <>
          <br />
          {event.place}
        </>
      )}
      {eventLink(event) === null ? null : (
        <>
          <br />
          <a href={eventLink(event) ?? ''} style={link}>
            {eventLink(event)}
          </a>
        </>
      )}
      {event.sessionDateId === undefined ? null : (
        <>
          <br />
          {SAID.map((said, at) => (
            <span key={said}>
              {at === 0 ? '' : ' · '}
              <a href={`${slot('comingUrl')}?said=${said}`} style={link}>
                {SAY_WORDS[said]}
              </a>
            </span>
          ))}
        </>
      )}
      {event.signUp ? (
        <>
          <br />
          <a href={slot('passOnUrl')} style={link}>
            Your own link to pass on: whoever signs up under it counts as yours
          </a>
        </>
      ) : null}
    </Text>
  );
}

function AskPart({
  ask,
  hasDeadline,
}: {
  ask: NonNullable<LetterFrame['ask']>;
  hasDeadline: boolean;
}): React.ReactElement {
  return (
    <>
      {ask.says === '' ? null : (
        <Text style={{ margin: '24px 0 0', fontSize: '16px', lineHeight: '25px' }}>
          <strong>{ask.says}</strong>
        </Text>
      )}
      {ask.choices.length === 0 ? (
        <Text style={{ margin: '24px 0 8px' }}>
          <Button href={slot('answerUrl')} style={button('#8A4B12')}>
            {ask.deed}
          </Button>
        </Text>
      ) : (
        ask.choices.map((choice) => (
          <Text key={choice.id} style={{ margin: '10px 0' }}>
            <Button href={`${slot('answerUrl')}?choice=${choice.id}`} style={button('#8A4B12')}>
              {choice.words}
            </Button>
          </Text>
        ))
      )}
      <Text style={small}>
        {`${ask.please}${hasDeadline ? ` by ${slot('deadline')}` : ''}. No sign-in is needed.`}
      </Text>
    </>
  );
}

function Letter({
  content,
  organisation,
  ask,
  hasDeadline,
  stoppable,
  banner,
  senderPicture,
  publicUrl,
  address,
  bannerAddress,
  fill,
}: LetterFrame & { fill: FillField }): React.ReactElement {
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
          {excerpt(content.sections, 120, fill)}
        </div>
        <Container
          style={{
            backgroundColor: '#FFFEFA',
            border: '1px solid #D8D0C0',
            padding: '28px',
            maxWidth: '620px',
          }}
        >
          {EDGE}
          {banner ? (
            <img
              src={`${publicUrl}${bannerAddress(imagePath(banner, 'mail'))}`}
              alt={banner.alt}
              width={562}
              style={{ display: 'block', width: '100%', height: 'auto', margin: '0 0 16px' }}
            />
          ) : null}
          <Text style={small}>
            {senderPicture === null ? null : (
              <img
                src={`${publicUrl}${senderPicture}`}
                alt=""
                width={40}
                height={40}
                style={{ width: '40px', height: '40px', verticalAlign: 'middle', margin: '0 10px 0 0' }}
              />
            )}
            {[organisation, content.byline].filter(Boolean).join(' · ')}
          </Text>
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
            dangerouslySetInnerHTML={{
              __html: sectionsHtml(content.sections, fill, {
                kind: 'mail',
                publicUrl,
                address,
                watchUrl: slot('readUrl'),
              }),
            }}
          />
          {content.event ? <EventPart event={content.event} /> : null}
          {content.button ? (
            <Text style={{ margin: '24px 0' }}>
              <Button href={content.button.url} style={button('#34506B')}>
                {content.button.label}
              </Button>
            </Text>
          ) : null}
          {ask ? <AskPart ask={ask} hasDeadline={hasDeadline} /> : null}
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
          {EDGE}
        </Container>
      </Body>
    </Html>
  );
}

function textPart({
  content,
  organisation,
  ask,
  hasDeadline,
  stoppable,
  publicUrl,
  fill,
}: LetterFrame & { fill: FillField }): string {
  const { event } = content;
  return [
    [organisation, content.byline].filter(Boolean).join(' · '),
    content.importance === 'routine' ? '' : content.importance.toUpperCase(),
    content.title,
    sectionsText(content.sections, fill, publicUrl),
    event
      ? [
          `When: ${slot('when')}`,
          event.place.trim() === '' ? '' : `Where: ${event.place.trim()}`,
          eventLink(event) ?? '',
          ...(event.sessionDateId === undefined
            ? []
            : SAID.map((said) => `${SAY_WORDS[said]}: ${slot('comingUrl')}?said=${said}`)),
          event.signUp ? `Your own link to pass on: ${slot('passOnUrl')}` : '',
        ]
          .filter(Boolean)
          .join('\n')
      : '',
    content.button ? `${content.button.label}: ${content.button.url}` : '',
    ask
      ? [
          ask.says,
          `${ask.please}${hasDeadline ? ` by ${slot('deadline')}` : ''} (no sign-in needed):`,
          ...(ask.choices.length === 0
            ? [slot('answerUrl')]
            : ask.choices.map((choice) => `${choice.words}: ${slot('answerUrl')}?choice=${choice.id}`)),
        ]
          .filter(Boolean)
          .join('\n')
      : '',
    `-- \n${slot('why')}\nRead it in Clear Bell: ${slot('readUrl')}`,
    stoppable ? `Stop mail of this kind: ${slot('unsubscribeUrl')}` : '',
  ]
    .filter(Boolean)
    .join('\n\n');
}

/** Splits a text at its slots once, so that filling it in for ten thousand readers is only joining. */
function fillable(
  text: string,
  encode: (value: string) => string,
  valueOf: (slot: string, fields: ReaderFields) => string,
): (fields: ReaderFields) => string {
  // eslint-disable-next-line no-control-regex -- the slots are marked with a character no author can write
  const parts = text.split(/\u0001(\w+)\u0001/);
  return (fields) => parts.map((part, i) => (i % 2 === 1 ? encode(valueOf(part, fields)) : part)).join('');
}

/** The two parts of a mail for one reader, and what stands in the frame of the first. */
export interface FilledLetter {
  html: string;
  text: string;
  within: string;
}

/** A letter laid out once for an announcement; filling it in for a reader gives both parts of the mail. */
export type LaidOutLetter = (fields: ReaderFields) => FilledLetter;

export async function layOutLetter(frame: LetterFrame): Promise<LaidOutLetter> {
  const named: { name: string; fallback: string }[] = [];
  const fill: FillField = (name, fallback) => {
    named.push({ name, fallback });
    return slot(`field${named.length - 1}`);
  };
  const valueOf = (key: string, fields: ReaderFields): string => {
    const own = SLOTS.find((each) => each === key);
    if (own) return fields[own];
    const { reader } = fields;
    if (key === 'when')
      return reader.eventMs === null
        ? ''
        : `${momentWords(reader.eventMs, reader.zone, reader.atMs)} (${zoneWords(reader.zone)} time)`;
    const field = named[Number(key.slice('field'.length))];
    return field ? fillFor(reader)(field.name, field.fallback) : '';
  };
  const [before = '', inner = '', behind = ''] = (await render(<Letter {...frame} fill={fill} />)).split(
    EDGE,
  );
  const within = fillable(inner, escapeHtml, valueOf);
  const head = fillable(before, escapeHtml, valueOf);
  const text = fillable(textPart({ ...frame, fill }), (value) => value, valueOf);
  return (fields) => {
    const middle = within(fields);
    return { html: `${head(fields)}${middle}${behind}`, within: middle, text: text(fields) };
  };
}
