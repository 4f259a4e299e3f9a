import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { plainWords } from '../../src/core/content/text.ts';
import { linksIn } from '../../src/core/content/document.ts';
import { automaticKind, isLoop } from '../../src/core/mail-in/automatic.ts';
import { isAuthentic } from '../../src/core/mail-in/authentication.ts';
import { isForGood, recipientsIn } from '../../src/core/mail-in/report.ts';
import { documentOfMailHtml, documentOfPlain, ownAnswer } from '../../src/core/mail-in/written.ts';
import { answerAddress, backAddress, readMailAddress } from '../../src/server/mail-in/address.ts';

const headers = (...lines: [string, string][]) => lines.map(([name, value]) => ({ name, value }));
const found = (value: string) => ['authentication-results', value] as [string, string];
const OURS = 'mx.house.example';

describe('who a mail is from', () => {
  it.each([
    ['mx.house.example; dmarc=pass header.from=place.example', true],
    ['mx.house.example 1; spf=fail; dmarc=pass (p=reject) header.from=place.example', true],
    ['mx.house.example; dkim=pass header.d=place.example', true],
    ['mx.house.example; dkim=pass header.i=@mail.place.example', false],
    ['mx.house.example; spf=pass smtp.mailfrom=bounce@place.example', true],
    ['mx.house.example; spf=pass smtp.mailfrom=bounce@elsewhere.example', false],
    ['mx.house.example; dkim=pass header.d=example', false],
    ['mx.house.example; dkim=pass header.d=ace.example', false],
    ['mx.house.example; dmarc=fail header.from=place.example', false],
    ['mx.house.example; dmarc=pass header.from=elsewhere.example', false],
    ['mx.house.example; dkim=fail (dmarc=pass; dkim=pass header.d=place.example)', false],
    ['mx.house.example; none', false],
    ['mx.elsewhere.example; dmarc=pass header.from=place.example', false],
  ])('%s: %s', (value, wanted) => {
    expect(isAuthentic(headers(found(value)), OURS, 'ann@place.example')).toBe(wanted);
  });

  it('is what the topmost header of our server says, whatever came along below it', () => {
    const forged = found(`${OURS}; dmarc=pass header.from=place.example`);
    expect(isAuthentic(headers(found(`${OURS}; dmarc=fail`), forged), OURS, 'a@place.example')).toBe(false);
    expect(isAuthentic(headers(found('other.example; dmarc=fail'), forged), OURS, 'a@place.example')).toBe(
      true,
    );
    expect(isAuthentic([], OURS, 'a@place.example')).toBe(false);
  });

  it('stands in addresses that nobody else can make', () => {
    const ids = fc.integer({ min: 0, max: 2 ** 31 });
    fc.assert(
      fc.property(ids, ids, fc.nat(40), (personId, of, at) => {
        const answer = answerAddress('secret', 'in.example', personId, of);
        expect(answer.split('@')[0]?.length).toBeLessThanOrEqual(64);
        // Mail systems write addresses as they like.
        expect(readMailAddress('secret', 'in.example', answer.toUpperCase())).toEqual({
          kind: 'answer',
          personId,
          postId: of,
        });
        const back = backAddress('secret', 'in.example', personId, of);
        expect(readMailAddress('secret', 'in.example', back)).toEqual({
          kind: 'back',
          personId,
          occurrenceId: of,
        });
        expect(readMailAddress('another', 'in.example', back)).toBeUndefined();
        expect(readMailAddress('secret', 'other.example', back)).toBeUndefined();
        const i = at % back.indexOf('@');
        const other = back[i] === '1' ? '2' : '1';
        expect(
          readMailAddress('secret', 'in.example', back.slice(0, i) + other + back.slice(i + 1)),
        ).toBeUndefined();
      }),
    );
  });
});

describe('what nobody wrote', () => {
  it.each([
    ['', [], 'automatic answer'],
    ['a@b.example', [['auto-submitted', 'auto-replied (vacation)']], 'automatic answer'],
    ['a@b.example', [['auto-submitted', 'auto-generated']], 'made by a machine'],
    ['a@b.example', [['auto-submitted', 'no']], null],
    ['a@b.example', [['precedence', 'bulk']], 'sent to many'],
    ['a@b.example', [['list-id', '<list.example>']], 'sent to many'],
    ['a@b.example', [['content-type', 'Multipart/Report; report-type=delivery-status']], 'report'],
    ['a@b.example', [['subject', 'Out of office']], null],
  ] as [string, [string, string][], string | null][])('%s %j is %s', (sender, lines, wanted) => {
    expect(automaticKind(headers(...lines), sender)).toBe(wanted);
  });

  it('is told from what goes in a circle', () => {
    expect(isLoop(headers(['x-loop', 'in.example']), 'in.example')).toBe(true);
    expect(isLoop(headers(['x-loop', 'other.example']), 'in.example')).toBe(false);
    expect(
      isLoop(
        Array.from({ length: 31 }, () => ({ name: 'received', value: 'x' })),
        'in.example',
      ),
    ).toBe(true);
  });

  it('says for whom it came back, for good or for now', () => {
    const report = [
      'Reporting-MTA: dns; mx.example\r\n\r\n',
      'Original-Recipient: rfc822;ann@place.example\r\nFinal-Recipient: rfc822; ann@inner.example\r\nAction: Failed\r\n',
      'Status: 5.1.1 (no such user)\r\nDiagnostic-Code: smtp; 550 5.1.1\r\n <ann@inner.example>: no such user\r\n\r\n',
      'Final-Recipient: rfc822; ben@place.example\r\nAction: delayed\r\nStatus: 4.4.1\r\n',
    ].join('');
    expect(recipientsIn(report)).toEqual([
      {
        address: 'ann@place.example',
        action: 'failed',
        status: '5.1.1',
        reason: '550 5.1.1 <ann@inner.example>: no such user',
      },
      { address: 'ben@place.example', action: 'delayed', status: '4.4.1', reason: '4.4.1' },
    ]);
    expect(recipientsIn(report).map(isForGood)).toEqual([true, false]);
    expect(recipientsIn('nothing of the kind')).toEqual([]);
  });
});

describe('what somebody wrote', () => {
  it.each([
    ['Yes.\n\nOn Mon, 5 Oct 2026 at 09:00, The desk <desk@x.example> wrote:\n> Who brings it?\n', 'Yes.'],
    ['Ja, gerne.\n\nAm 05.10.2026 um 09:00 schrieb Desk <desk@x.example>:\n> Wer?\n', 'Ja, gerne.'],
    ['One.\n\nTwo.\n\n-- \nAnn\nSeed House\n', 'One.\n\nTwo.'],
    ['> only what was quoted\n', ''],
    ['', ''],
  ])('%j is answered with %j', (text, wanted) => {
    expect(ownAnswer(text)).toBe(wanted);
  });

  it('keeps its lines, except where a mail program broke them, and links its addresses', () => {
    const long = 'This line goes on until a mail program broke it where it was full,';
    const doc = documentOfPlain(`Dear all,\nsee https://a.example/x?y=1.\n\n${long}\nand on.`);
    expect(doc.content).toHaveLength(2);
    expect(linksIn(doc)).toEqual(['https://a.example/x?y=1']);
    expect(plainWords(doc)).toContain(`${long} and on.`);
    expect(JSON.stringify(doc.content[0])).toContain('hardBreak');
  });

  it('loses no word of a plain text', () => {
    const word = fc.stringMatching(/^[a-zé]{1,12}$/);
    const text = fc.array(
      fc.array(fc.array(word, { minLength: 1, maxLength: 9 }), { minLength: 1, maxLength: 4 }),
      {
        minLength: 1,
        maxLength: 5,
      },
    );
    fc.assert(
      fc.property(text, (paragraphs) => {
        const written = paragraphs
          .map((lines) => lines.map((words) => words.join(' ')).join('\n'))
          .join('\n\n');
        expect(plainWords(documentOfPlain(written)).split(/\s+/)).toEqual(paragraphs.flat(2));
      }),
    );
  });

  const read = (html: string) => {
    const doc = documentOfMailHtml(html);
    if (!doc) throw new Error('It is nested too deep.');
    return doc;
  };
  it('keeps what HTML says and none of what paints it or runs', () => {
    const doc = read(
      '<style>p{}</style><h1>Press</h1><p>The <b>press</b> is <a href="https://x.example">here</a>, <a href="javascript:alert(1)">not</a>.</p><ul><li>one</li></ul><script>run()</script><img src="https://track.example/1.gif">',
    );
    expect(plainWords(doc)).toMatch(/Press\s+The press is here.*, not\.\s+.*one/s);
    expect(linksIn(doc)).toEqual(['https://x.example']);
    expect(documentOfMailHtml('<div>'.repeat(9_000) + 'deep')).toBeNull();
    expect(JSON.stringify(doc)).not.toMatch(/javascript|run\(|track|p\{/);
  });
});
