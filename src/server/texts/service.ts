import { Readable } from 'node:stream';
import { announcementFile } from '../../core/content/file.ts';
import type { TextForm } from '../../core/content/textForms.ts';
import { markdownOf } from '../../core/content/markdown.ts';
import { emptySection } from '../../core/content/section.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { versionById } from '../announcements/versionStore.ts';
import { requireOnBoard, visibleBoard } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { fileName, zipStream, type Put } from '../http/zip.ts';
import { notFound, Problem } from '../problem.ts';
import { repliesPage, type ReplyRow } from '../replies/store.ts';
import { openOccurrence } from '../sends/service.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { openSeries } from '../series/service.ts';
import type { Settings } from '../settings.ts';
import { emlOf, type Said } from './eml.ts';
import { postTexts, type PostText } from './store.ts';

/** The media types of what is taken out. */
export const FORMS: Readonly<Record<TextForm, string>> = {
  md: 'text/markdown; charset=utf-8',
  eml: 'message/rfc822',
};

const PAGE = 100;
type MailSettings = Pick<Settings, 'MAIL_FROM' | 'CLEAR_BELL_URL'>;
type From = Parameters<typeof emlOf>[2];
const fromOf = ({ MAIL_FROM, CLEAR_BELL_URL }: MailSettings): From => ({
  address: MAIL_FROM,
  host: new URL(CLEAR_BELL_URL).hostname,
});

/**
 * What a send says, as a file.
 *
 * @throws 404 where it is not theirs to see
 */
export async function textOfSend(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  form: TextForm,
  settings: MailSettings,
): Promise<{ name: string; body: string | Buffer }> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  const version = await versionById(db, occurrence.versionId);
  if (!version) throw notFound('send');
  const name = `${fileName(version.title, 'announcement')}.${form}`;
  if (form === 'md') return { name, body: announcementFile(version) };
  return {
    name,
    body: await emlOf(
      db,
      {
        content: version,
        by: version.byline || occurrence.createdByName,
        atMs: occurrence.dueMs,
        id: `occurrence.${occurrence.id}`,
      },
      fromOf(settings),
    ),
  };
}

/** All replies to a post that are up, in the order they were written. */
async function repliesTo(db: Database, postId: number): Promise<ReplyRow[]> {
  const all: ReplyRow[] = [];
  for (let before: number | null = null; ;) {
    const page: ReplyRow[] = await repliesPage(db, postId, before, PAGE);
    all.unshift(...page);
    const [first] = page;
    if (page.length < PAGE || !first) return all.filter((reply) => reply.state === 'up');
    before = first.id;
  }
}

/** Replies as CommonMark, each under who wrote it and when; null where there are none. */
function repliesFile(replies: readonly ReplyRow[]): string | null {
  if (replies.length === 0) return null;
  return replies
    .map(({ authorName, writtenMs, document, files }) => {
      const parts = [markdownOf(document).trim(), ...files.map((file) => file.name)];
      return `### ${authorName}, ${new Date(writtenMs).toISOString()}\n\n${parts.join('\n\n')}\n`;
    })
    .join('\n');
}

/** The replies to a post that are up, as CommonMark; null where there are none. */
export const repliesText = async (db: Database, postId: number): Promise<string | null> =>
  repliesFile(await repliesTo(db, postId));

const saidIn = (reply: ReplyRow, title: string): Said => ({
  content: {
    title: `Re: ${title}`,
    importance: 'routine',
    button: null,
    event: null,
    sections: [{ ...emptySection('s1'), document: reply.document, files: reply.files }],
  },
  by: reply.authorName,
  atMs: reply.writtenMs,
  id: `reply.${reply.id}`,
  repliesTo: `post.${reply.postId}`,
});

async function putPost(db: Database, put: Put, post: PostText, form: TextForm, from: From): Promise<void> {
  const version = await versionById(db, post.versionId);
  if (!version) return;
  const name = `${post.id} ${fileName(version.title, 'untitled')}`;
  const replies = post.replies === 0 ? [] : await repliesTo(db, post.id);
  if (form === 'md') {
    await put(`${name}.md`, announcementFile(version));
    const file = repliesFile(replies);
    if (file !== null) await put(`${name} replies.md`, file);
    return;
  }
  const said = { content: version, by: post.by, atMs: post.atMs, id: `post.${post.id}` };
  await put(`${name}.eml`, Readable.from([await emlOf(db, said, from)]));
  for (const reply of replies)
    await put(
      `${name} reply ${reply.id}.eml`,
      Readable.from([await emlOf(db, saidIn(reply, version.title), from)]),
    );
}

/**
 * What stands on a board with the replies to it, as a folder of files in a ZIP, read while it is sent. As mail, replies follow
 * what they reply to, as any mail program shows them.
 *
 * @throws 404 where the board is not theirs to see, 403 where they do not look after it
 */
export async function textsOfBoard(
  db: Database,
  actor: Actor,
  boardId: number,
  form: TextForm,
  settings: MailSettings,
): Promise<{ name: string; body: ReadableStream<Uint8Array> }> {
  const board = await visibleBoard(db, actor, boardId);
  requireOnBoard(actor, 'change settings', board);
  const from = fromOf(settings);
  return {
    name: `${fileName(board.name, 'board')}.zip`,
    body: zipStream(async (put) => {
      for (let after = 0; ;) {
        const page = await postTexts(db, boardId, after, PAGE);
        for (const post of page) await putPost(db, put, post, form, from);
        const last = page.at(-1);
        if (!last || page.length < PAGE) return;
        after = last.id;
      }
    }),
  };
}

/**
 * The issues of a series that have begun to go, of those that somebody may see, as a folder of files in a ZIP.
 *
 * @throws 404 where there is no such series, 409 where nothing of it has gone
 */
export async function textsOfSeries(
  db: Database,
  actor: Actor,
  seriesId: number,
  form: TextForm,
  settings: MailSettings,
): Promise<{ name: string; body: ReadableStream<Uint8Array> }> {
  const { series, issues } = await openSeries(db, actor, seriesId, null);
  const gone = issues.filter(({ state }) => state === 'sent' || state === 'going out');
  const seen: { id: number; number: number | null }[] = [];
  for (const { occurrenceId, number } of gone) {
    const occurrence = await occurrenceById(db, occurrenceId);
    if (
      occurrence &&
      decide(actor, { kind: 'see send', authorId: occurrence.createdBy }).outcome === 'allowed'
    )
      seen.push({ id: occurrenceId, number });
  }
  if (seen.length === 0) throw new Problem(409, 'No issue that you may see has gone out yet.');
  return {
    name: `${fileName(series.name, 'series')}.zip`,
    body: zipStream(async (put) => {
      for (const { id, number } of seen) {
        const { name, body } = await textOfSend(db, actor, id, form, settings);
        await put(`${number ?? id} ${name}`, typeof body === 'string' ? body : Readable.from([body]));
      }
    }),
  };
}
