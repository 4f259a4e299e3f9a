import { describe, expect, it } from 'vitest';
import { cleanPasted } from '../../src/ui/paste.ts';

const flat = (html: string): string => cleanPasted(html).replace(/\s+/g, ' ').trim();
const item = (text: string, style = 'mso-list:l0 level1 lfo1'): string =>
  `<p class="MsoListParagraph" style="${style}">${text}</p>`;

describe('what is pasted', () => {
  it('has no script, no style and no comment left, and keeps its text and its links', () => {
    const clean = flat(
      '<style>p{color:red}</style><!-- made by a word processor --><p onclick="x()">Read <a href="https://rules.example">the rules</a></p><script>alert(1)</script><template><p>no</p></template>',
    );
    expect(clean).toContain('Read <a href="https://rules.example">the rules</a>');
    expect(clean).not.toMatch(/script|style|<!--|alert|template|>no</);
  });

  it('has the lists a word processor only drew as lists, by bullet or number, without the drawn mark', () => {
    const clean = flat(
      `<p>Bring:</p>${item('<span>·<span>&nbsp;&nbsp; </span></span>Boots')}${item('• Rope')}<p>Then:</p>${item('1. Sign in')}${item('2) Sign out')}`,
    );
    expect(clean).toMatch(/<ul>.*Boots.*Rope.*<\/ul>.*Then.*<ol>.*Sign in.*Sign out.*<\/ol>/);
    expect(clean).not.toMatch(/·|•|1\.|2\)/);
    expect(clean.match(/<ul>/g)).toHaveLength(1);
    expect(clean.match(/<li>/g)).toHaveLength(4);
  });

  it('begins another list where the kind changes or something stands between, and takes no other paragraph for an item', () => {
    const clean = flat(
      `${item('• One')}${item('1. Two')}<p>between</p>${item('2. Three')}${item('no mark at all')}`,
    );
    expect(clean.match(/<[uo]l>/g)).toEqual(['<ul>', '<ol>', '<ol>']);
    expect(clean).toMatch(/<p[^>]*>no mark at all<\/p>$/);
    // A paragraph that only looks like one is nobody's list.
    expect(flat('<p>1. Not drawn by a word processor</p>')).toContain('1. Not drawn');
  });
});
