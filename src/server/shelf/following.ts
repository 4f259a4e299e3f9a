import { documentSchema } from '../../core/content/documentSchema.ts';
import { plainWords } from '../../core/content/text.ts';
import type { Database } from '../database/connection.ts';
import type { Handlers } from '../events/follow.ts';
import { notifyEverybody, notifyPeople } from '../notices/notify.ts';
import { makeFindable, makeUnfindable } from '../search/indexStore.ts';
import { answerById, questionById } from './store.ts';

/** Makes an answer findable, or not, as it now stands. */
export async function reindexAnswer(db: Database, id: number): Promise<void> {
  const row = await answerById(db, id);
  if (!row || row.publishedMs === null) {
    await makeUnfindable(db, 'answer', id);
    return;
  }
  await makeFindable(db, {
    kind: 'answer',
    subjectId: id,
    boardId: null,
    occurrenceId: null,
    authorId: row.writtenBy,
    category: row.subject,
    atMs: row.writtenMs,
    asks: false,
    title: row.question,
    body: plainWords(documentSchema.parse(JSON.parse(row.document))),
  });
}

/** Who is told of what happens on the shelf. */
export const shelfNotices: Handlers = {
  'question.asked': async (trx, of) => {
    const question = await questionById(trx, of.question);
    if (question)
      await notifyEverybody(
        trx,
        { sql: "p.role = 'coordinator' AND p.id <> ?", bindings: [question.personId] },
        {
          kind: 'shelf',
          title: 'A question for the shelf',
          text: question.text,
          path: '/shelf/desk',
          why: 'You are a coordinator, and nothing on the shelf answered it.',
          dedupeKey: `question:${of.question}`,
        },
      );
  },
  'question.settled': async (trx, of) => {
    const question = await questionById(trx, of.question);
    if (!question) return;
    const answered = of.answer !== null;
    await notifyPeople(trx, [question.personId], {
      kind: 'shelf',
      title: answered ? 'Your question is answered' : 'Your question was closed',
      text: answered ? question.text : of.note,
      path: answered ? `/shelf/${of.answer}` : '/shelf',
      why: 'You asked this on the shelf.',
      dedupeKey: `answered:${of.question}`,
    });
  },
};
