import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { letterAsk } from '../../src/server/asks/kinds.ts';
import { describe, expect, it } from 'vitest';
import { layOutLetter, type LetterFrame } from '../../src/server/mail/letter.tsx';
import { failureOf } from '../../src/server/mail/transport.ts';
import { plainSection } from '../../src/core/content/section.ts';
import { content } from './world.ts';

const frame = (part: Partial<LetterFrame> = {}): LetterFrame => ({
  content: content({ byline: 'from the vault office' }),
  organisation: 'Test Network',
  ask: letterAsk(acknowledgement({ within: 24 })),
  hasDeadline: true,
  stoppable: false,
  banner: null,
  senderPicture: null,
  publicUrl: 'https://bell.test',
  address: (path) => path,
  bannerAddress: (path) => path,
  ...part,
});
const fields = {
  why: 'It went to "Keys & <locks>".',
  readUrl: 'https://bell.test/for-me/1?a=1&b=2',
  answerUrl: 'https://bell.test/m/acknowledge/a-1-1-1-x',
  unsubscribeUrl: 'https://bell.test/m/unsubscribe/u-1-1-1-x',
  deadline: '12:00 on Friday 4 December (London time)',
  passOnUrl: 'https://bell.test/m/event/e-1-1-1-x',
  comingUrl: 'https://x.example/m/coming/c',
  reader: {
    name: 'Síle <Marsh>',
    station: null,
    greeting: '',
    occupation: 'driver',
    zone: 'Asia/Kathmandu',
    atMs: Date.parse('2026-12-01T03:15:00Z'),
    eventMs: Date.parse('2026-12-05T10:00:00Z'),
  },
};

describe('a letter', () => {
  it('speaks to its reader by name, place and clock, and never to nobody', async () => {
    const personal = content({
      sections: [
        plainSection({
          type: 'doc',
          content: [
            {
              type: 'paragraph',
              content: [
                { type: 'field', attrs: { name: 'first name', fallback: 'friend' } },
                { type: 'text', text: ' of ' },
                { type: 'field', attrs: { name: 'station', fallback: 'the <whole> network' } },
              ],
            },
          ],
        }),
      ],
      event: {
        wall: '2026-12-05T10:00',
        zone: 'UTC',
        minutes: 60,
        place: 'The vault',
        link: '',
        signUp: true,
      },
    });
    const letter = await layOutLetter(frame({ content: personal }));
    const { html, text } = letter(fields);
    expect(html).toContain('Síle of the &lt;whole&gt; network');
    expect(text).toContain('Síle of the <whole> network');
    expect(text).toContain('When: 15:45 on Saturday 5 December (Kathmandu time)');
    expect(html).toContain('https://bell.test/m/event/e-1-1-1-x');
    const other = letter({ ...fields, reader: { ...fields.reader, name: '', station: 'North' } });
    expect(other.text).toContain('friend of North');
    expect(other.html + other.text).not.toContain('\u0001');
  });

  it('is filled in for its reader, escaped in HTML and plain in text', async () => {
    const { html, text } = (await layOutLetter(frame()))(fields);
    expect(html).toContain('It went to &quot;Keys &amp; &lt;locks&gt;&quot;.');
    expect(html).toContain('href="https://bell.test/for-me/1?a=1&amp;b=2"');
    expect(html).toContain('href="https://bell.test/m/acknowledge/a-1-1-1-x"');
    expect(text).toContain('It went to "Keys & <locks>".');
    expect(text).toContain('Please acknowledge by 12:00 on Friday 4 December (London time)');
    // No slot is left unfilled in either part.
    expect(html + text).not.toContain('\u0001');
  });

  it('is filled in for one reader without a trace of another', async () => {
    const letter = await layOutLetter(frame());
    letter({ ...fields, why: 'Only for the first reader.' });
    expect(letter(fields).html).not.toContain('Only for the first reader.');
  });

  it('asks and offers only what its plan does', async () => {
    const plain = (await layOutLetter(frame({ ask: null, hasDeadline: false })))(fields);
    expect(plain.html + plain.text).not.toMatch(/acknowledge/i);
    expect(plain.html + plain.text).not.toContain('unsubscribe');
    const stoppable = (await layOutLetter(frame({ ask: null, stoppable: true })))(fields);
    expect(stoppable.html).toContain('m/unsubscribe/u-1-1-1-x');
    expect(stoppable.text).toContain('Stop mail of this kind: https://bell.test/m/unsubscribe/u-1-1-1-x');
    const open = (await layOutLetter(frame({ ask: letterAsk(acknowledgement()), hasDeadline: false })))(
      fields,
    );
    expect(open.text).toContain('Please acknowledge that you have read this');
    expect(open.text).not.toContain('4 December');
  });

  it('shows importance, and a button with its link', async () => {
    const urgent = content({
      importance: 'urgent',
      button: { label: 'Open <map>', url: 'https://a.example/?x=1&y=2' },
    });
    const { html, text } = (await layOutLetter(frame({ content: urgent })))(fields);
    expect(html).toContain('Urgent');
    expect(html).toContain('Open &lt;map&gt;');
    expect(text).toContain('URGENT');
    expect(text).toContain('Open <map>: https://a.example/?x=1&y=2');
  });
});

describe('what the mail server said', () => {
  const error = (fieldsOf: Record<string, unknown>, message = 'said so'): Error =>
    Object.assign(new Error(message), fieldsOf);

  it.each([
    ['550 on the recipient', error({ responseCode: 550, code: 'EENVELOPE' }), 'refused'],
    ['451 on the sender', error({ responseCode: 451, code: 'EENVELOPE' }), 'temporary'],
    ['no connection', error({ code: 'ECONNREFUSED' }), 'unreachable'],
    ['no such host', error({ code: 'EDNS' }), 'unreachable'],
    ['silence', error({ code: 'ETIMEDOUT' }), 'unreachable'],
    ['our own password refused', error({ responseCode: 535, code: 'EAUTH' }), 'unreachable'],
    ['anything else', error({}), 'temporary'],
  ])('%s', (_, given, kind) => expect(failureOf(given).kind).toBe(kind));

  it('is kept short and on one line', () => {
    const { reason } = failureOf(error({ responseCode: 550 }, `no\r\nsuch ${'x'.repeat(900)}`));
    expect(reason).not.toMatch(/[\r\n]/);
    expect(reason.length).toBeLessThan(300);
  });
});
