import { diffArrays, diffWordsWithSpace } from 'diff';
import type { Change } from '../../core/content/change.ts';

/** Paragraphs that differ are compared word by word as long as all of it takes no longer than this, in milliseconds. */
const LONGEST_MS = 1_500;
/** A paragraph that differs in more words than this is shown as taken out and put in whole. */
const MOST_EDITS = 400;

const paragraphs = (text: string): string[] => text.match(/[^\n]*\n+|[^\n]+$/g) ?? [];

/**
 * What changed from one text to another: by paragraph first, and word by word within paragraphs that took each other's
 * place. Bounded: what would take too long is told by whole paragraphs, and nothing is left out. The parts of `same` and
 * `out` together are the first text, those of `same` and `in` the second.
 */
export function changesBetween(before: string, after: string): Change[] {
  const end = Date.now() + LONGEST_MS;
  const found = diffArrays(paragraphs(before), paragraphs(after), { timeout: LONGEST_MS });
  if (!found)
    return [
      { kind: 'out', text: before },
      { kind: 'in', text: after },
    ];
  const changes: Change[] = [];
  const add = (kind: Change['kind'], text: string): void => {
    const last = changes.at(-1);
    if (last?.kind === kind) last.text += text;
    else if (text !== '') changes.push({ kind, text });
  };
  for (let i = 0; i < found.length; i++) {
    const part = found[i];
    if (!part) continue;
    const next = found[i + 1];
    const pair =
      part.removed && next?.added ? [part, next] : part.added && next?.removed ? [next, part] : null;
    if (!pair) {
      add(part.added ? 'in' : part.removed ? 'out' : 'same', part.value.join(''));
      continue;
    }
    i++;
    const [out = '', into = ''] = pair.map((each) => each.value.join(''));
    const timeout = Math.max(1, end - Date.now());
    const words = diffWordsWithSpace(out, into, { timeout, maxEditLength: MOST_EDITS });
    if (words) for (const word of words) add(word.added ? 'in' : word.removed ? 'out' : 'same', word.value);
    else {
      add('out', out);
      add('in', into);
    }
  }
  return changes;
}
