import { parse } from 'yaml';
import { draftContentSchema, EMPTY_CONTENT, MAX_TITLE, type Content } from './announcement.ts';
import type { Block, Doc } from './document.ts';
import { BREAK } from './file.ts';
import { documentOfMarkdown } from './markdown.ts';
import { emptySection } from './section.ts';
import { plainWords } from './text.ts';

/** Why a file is no announcement, in words, with the field at fault. */
export class FileProblem extends Error {
  readonly field: string;
  constructor(field: string, words: string) {
    super(words);
    this.field = field;
  }
}

const FRONT = /^---[ \t]*\r?\n([\s\S]*?)\r?\n---[ \t]*(?:\r?\n|$)/;

function frontOf(text: string): { front: Record<string, unknown>; body: string } {
  const found = FRONT.exec(text);
  if (!found) return { front: {}, body: text };
  let front: unknown;
  try {
    // Bounded: names for what stands elsewhere could unfold into any size.
    front = parse(found[1] ?? '', { maxAliasCount: 0 }) ?? {};
  } catch (error) {
    throw new FileProblem(
      'text',
      `What stands between the two lines of hyphens is no YAML: ${error instanceof Error ? (error.message.split('\n')[0] ?? '') : ''}`,
    );
  }
  if (typeof front !== 'object' || front === null || Array.isArray(front))
    throw new FileProblem('text', 'Between the two lines of hyphens stand names with their values.');
  return { front: front as Record<string, unknown>, body: text.slice(found[0].length) };
}

/** The title of a file that names none: its first heading, which is then no part of the text, or else its first words. */
function titleFrom(document: Doc): { title: string; document: Doc } {
  const [first, ...rest] = document.content;
  if (first?.type !== 'heading')
    return { title: plainWords(document).split('\n')[0]?.slice(0, MAX_TITLE) ?? '', document };
  const title = plainWords({ type: 'doc', content: [first] })
    .trim()
    .slice(0, MAX_TITLE);
  return {
    title,
    document: { type: 'doc', content: rest.length > 0 ? rest : ([{ type: 'paragraph' }] as Block[]) },
  };
}

/**
 * Reads an announcement from a file of CommonMark, with front matter or without (`announcementFile`). Thematic breaks part its sections.
 *
 * @throws a FileProblem where it is none, or something in it does not fit
 */
export function readAnnouncementFile(text: string): Content {
  const { front, body } = frontOf(text.replace(/^\uFEFF/, ''));
  const parts = body.split(/\r?\n/).reduce<string[][]>(
    (found, line) => {
      if (line.trim() === BREAK) found.push([]);
      else found.at(-1)?.push(line);
      return found;
    },
    [[]],
  );
  const documents = parts.map((lines) => documentOfMarkdown(lines.join('\n').trim()));
  const named = typeof front.title === 'string' ? front.title : undefined;
  const [first] = documents;
  const taken = named === undefined && first ? titleFrom(first) : undefined;
  if (taken) documents[0] = taken.document;
  const of = Array.isArray(front.sections) ? (front.sections as unknown[]) : [];
  const given = {
    ...EMPTY_CONTENT,
    ...Object.fromEntries(
      ['byline', 'importance', 'button', 'event'].flatMap((name) =>
        name in front ? [[name, front[name]]] : [],
      ),
    ),
    title: named ?? taken?.title ?? '',
    sections: documents.map((document, i) => ({
      ...emptySection(`s${i + 1}`),
      ...(typeof of[i] === 'object' && of[i] !== null ? of[i] : {}),
      id: `s${i + 1}`,
      document,
    })),
  };
  const read = draftContentSchema.safeParse(given);
  if (!read.success) {
    const [issue] = read.error.issues;
    throw new FileProblem(issue?.path.join('.') ?? 'text', issue?.message ?? 'Something in it does not fit.');
  }
  return { ...read.data, issue: null };
}
