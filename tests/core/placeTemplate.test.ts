import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { PLACE_FIELDS, PLAIN_TEMPLATE, SAMPLE, sampleFields } from '../../src/core/gateways/placeFields.ts';
import { bodyOf, templateProblem } from '../../src/core/gateways/placeTemplate.ts';

describe('the body an outside place gets', () => {
  it('is JSON that says what the announcement says, whatever that is', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'grapheme' }), (title, text) => {
        const body = JSON.parse(bodyOf(PLAIN_TEMPLATE, { ...SAMPLE, title, text })) as unknown;
        expect(body).toEqual({ title, text, url: SAMPLE.url });
      }),
    );
  });

  it('keeps the kind of what stands alone, and fills in what stands among other words', () => {
    const body = bodyOf(
      '{"of": ["{{ id }}", "no. {{ id }}"], "sections": "{{ sections }}", "at": "{{ event.starts }}", "none": "{{ event.link }}", "short": "{{ text | truncate: 9 }}", "n": 3, "yes": true}',
      { ...SAMPLE, id: 7 },
    );
    expect(JSON.parse(body)).toEqual({
      of: [7, 'no. 7'],
      sections: SAMPLE.sections,
      at: SAMPLE.event?.starts,
      none: '',
      short: 'A tria...',
      n: 3,
      yes: true,
    });
    expect(JSON.parse(bodyOf('{"event": "{{ event }}"}', { ...SAMPLE, event: null }))).toEqual({
      event: null,
    });
  });

  it('can name every field that is told of, and nothing else', () => {
    const every = JSON.stringify(Object.fromEntries(Object.keys(PLACE_FIELDS).map((f) => [f, `{{ ${f} }}`])));
    expect(templateProblem(every)).toBeNull();
    const sample = sampleFields('The survey', 'http://bell.test', 0);
    expect(JSON.parse(bodyOf(every, sample))).toEqual(sample);
    for (const name of ['password', 'constructor', 'title.constructor', '__proto__'])
      expect(templateProblem(`{"a": "x {{ ${name} }}"}`)).toMatch(/undefined variable|cannot be filled in/);
  });

  it('says what is wrong with a template, and stops one that would never end', () => {
    expect(templateProblem('{"a": ')).toMatch(/^It is not JSON/);
    expect(templateProblem('{"a": "{{ title "}')).toMatch(/not closed/);
    expect(templateProblem('{"a": "{{ title | shout }}"}')).toMatch(/undefined filter/);
    expect(templateProblem('{"a": "{% for i in (1..900000000) %}x{% endfor %}"}')).toMatch(/limit/);
    expect(templateProblem('{"a": "{% include \'/etc/passwd\' %}"}')).not.toBeNull();
    expect(() => bodyOf('{"a": "{{ text }}"}', { ...SAMPLE, text: 'x'.repeat(300_000) })).toThrow(/200,000/);
  });
});
