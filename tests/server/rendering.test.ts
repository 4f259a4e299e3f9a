import { describe, expect, it } from 'vitest';
import { fillFor } from '../../src/core/content/html.ts';
import { storedBody } from '../../src/core/stored.ts';
import { renderedPost, sharedBody } from '../../src/server/posts/rendering.ts';
import type { Inline } from '../../src/core/content/document.ts';
import { plainSection } from '../../src/core/content/section.ts';

const section = (...content: Inline[]) =>
  plainSection({ type: 'doc', content: [{ type: 'paragraph', content }] });
const stored = (...content: Inline[]): string =>
  storedBody({ sections: [section(...content)], button: null, event: null });
const reader = (name: string) =>
  fillFor({
    name,
    greeting: name,
    station: 'North',
    occupation: 'Warden',
    zone: 'UTC',
    atMs: 0,
    eventMs: null,
  });
const post = (json: string, id = 7) => ({ id, body: sharedBody(json), part: 1, parts: 1, partSize: 10 });

describe('what a post shows', () => {
  it('is made once for everybody where it says the same to everybody', () => {
    const json = stored({ type: 'text', text: 'The ridge path is closed.' });
    const first = renderedPost(post(json), 'post', 4, reader('Wren'));
    expect(first.html).toContain('The ridge path is closed.');
    expect(renderedPost(post(json), 'post', 4, reader('Otieno'))).toBe(first);
  });

  it('is made for each reader where it names them', () => {
    const json = stored(
      { type: 'text', text: 'Good morning, ' },
      { type: 'field', attrs: { name: 'name', fallback: 'friend' } },
    );
    expect(renderedPost(post(json), 'post', 4, reader('Wren')).html).toContain('Good morning, Wren');
    expect(renderedPost(post(json), 'post', 4, reader('Otieno')).html).toContain('Good morning, Otieno');
  });

  it('is another for another level, another post and another place, and never what somebody changed', () => {
    const json = stored({ type: 'text', text: 'One text on two boards.' });
    const first = renderedPost(post(json), 'post', 4, reader('Wren'));
    expect(renderedPost(post(json, 8), 'post', 4, reader('Wren'))).not.toBe(first);
    expect(renderedPost(post(json), 'own post', 4, reader('Wren'))).not.toBe(first);
    expect(renderedPost(post(json), 'post', 2, reader('Wren'))).not.toBe(first);
    expect(() => sharedBody(json).sections.push(section())).toThrow(TypeError);
  });

  it('says so where it cannot be read, and is not kept where it is very long', () => {
    expect(renderedPost(post('{'), 'post', 4, reader('Wren')).html).toContain('This text cannot be read.');
    const long = stored({ type: 'text', text: 'word '.repeat(5_000) });
    expect(sharedBody(long)).not.toBe(sharedBody(long));
    expect(renderedPost(post(long), 'post', 4, reader('Wren')).excerpt).toHaveLength(140);
  });
});
