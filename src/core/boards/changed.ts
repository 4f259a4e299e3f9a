import { FLAG_WORDS, SWITCH_WORDS } from './switches.ts';

type Values = Record<string, unknown>;

const isFlag = (name: string): name is keyof typeof FLAG_WORDS => name in FLAG_WORDS;
const isSwitch = (name: string): name is keyof typeof SWITCH_WORDS => name in SWITCH_WORDS;

const PLAIN: Record<string, string> = {
  name: 'name',
  about: 'what it is for',
  sectionLimit: 'sections in one post',
  pinLimit: 'posts pinned at once',
};

/**
 * What of a board was changed from what to what, each a sentence; nothing of what was not kept, as in entries from before it
 * was.
 *
 * @param now what was set, by its field
 * @param was what stood there before, by its field
 */
export function boardChangeWords(now: Values, was: Values): string[] {
  const text = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value));
  return Object.keys(now).flatMap((name) => {
    if (!(name in was) || was[name] === now[name]) return [];
    if (isFlag(name))
      return [
        `${FLAG_WORDS[name]}: from ${was[name] === true ? 'yes' : 'no'} to ${now[name] === true ? 'yes' : 'no'}`,
      ];
    if (isSwitch(name)) {
      const choices: Record<string, string> = SWITCH_WORDS[name].choices;
      const word = (value: unknown): string => choices[text(value)] ?? text(value);
      return [`${SWITCH_WORDS[name].name}: from ${word(was[name])} to ${word(now[name])}`];
    }
    const plain = PLAIN[name];
    return plain === undefined ? [] : [`${plain}: from “${text(was[name])}” to “${text(now[name])}”`];
  });
}
