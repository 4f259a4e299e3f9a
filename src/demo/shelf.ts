import { rows, change, type Database } from '../server/database/connection.ts';
import { answerById, insertAnswer, insertQuestion, insertSubject } from '../server/shelf/store.ts';
import { makeFindable } from '../server/search/indexStore.ts';
import { plainWords } from '../core/content/text.ts';
import type { DemoPeople } from './people.ts';
import { QUESTIONS, SHELF } from './talk.ts';
import { doc } from './texts.ts';

const HOUR_MS = 3_600_000;

/** Saved answers by subject, and what was asked of them. */
export async function layShelf(db: Database, nowMs: number, people: DemoPeople): Promise<void> {
  const subjects = new Map<string, number>();
  const subject = async (name: string, within: string | null): Promise<number> => {
    const key = `${within ?? ''}/${name}`;
    const known = subjects.get(key);
    if (known !== undefined) return known;
    const id = await insertSubject(db, name, within === null ? null : await subject(within, null));
    subjects.set(key, id);
    return id;
  };
  const answers = new Map<string, number>();
  const writer = people.byMail('maud');
  for (const [wide, narrow, question, lines, announced] of SHELF) {
    const subjectId = narrow === null ? await subject(wide, null) : await subject(narrow, wide);
    const [said] = await rows<{ id: number }>(
      db,
      `SELECT o.id FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id WHERE v.title = ? LIMIT 1`,
      [announced],
    );
    const document = doc(...lines);
    const id = await insertAnswer(
      db,
      { subjectId, question, document, occurrenceId: said?.id ?? null, published: true },
      writer,
    );
    answers.set(question, id);
    const row = await answerById(db, id);
    await makeFindable(db, {
      kind: 'answer',
      subjectId: id,
      boardId: null,
      occurrenceId: null,
      authorId: writer,
      category: row?.subject ?? '',
      atMs: nowMs - 300 * HOUR_MS,
      asks: false,
      title: question,
      body: plainWords(document),
    });
  }
  for (const [i, [hoursAgo, mail, text, found, helped]] of QUESTIONS.entries()) {
    const id = await insertQuestion(db, {
      personId: people.byMail(mail),
      text,
      found,
      state: helped === null ? 'open' : 'helped',
      answerId: helped === null ? null : (answers.get(helped) ?? null),
      key: `demo-question-${i}`,
    });
    await change(db, 'UPDATE shelf_questions SET at = ? WHERE id = ?', [
      new Date(nowMs - hoursAgo * HOUR_MS),
      id,
    ]);
  }
}
