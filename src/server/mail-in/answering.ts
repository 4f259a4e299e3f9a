import { createHash } from 'node:crypto';
import { list } from '../../core/words.ts';
import { documentOfPlain, ownAnswer } from '../../core/mail-in/written.ts';
import { actorOf } from '../accounts/actor.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { writeReply } from '../replies/service.ts';
import { replyByKey } from '../replies/store.ts';
import { keepFiles } from './files.ts';
import type { ReadMail } from './reading.ts';
import { personWithAddress } from './store.ts';

/**
 * Puts somebody's answer to a notice under the post it was of, without what it quotes. The same mail twice is one reply.
 *
 * @throws 403 where it is not from them or they may not reply there, 409 where the post is gone, 422 where it says nothing
 */
export async function answerByMail(
  db: Database,
  mail: ReadMail,
  { personId, postId }: { personId: number; postId: number },
): Promise<void> {
  const actor = await actorOf(db, personId);
  if (!actor || (await personWithAddress(db, mail.from)) !== personId)
    throw new Problem(
      403,
      'This is not an address of whoever was told. Answer from the address the notice came to.',
    );
  const key = `mail.${createHash('sha256').update(`${postId} ${mail.id}`).digest('base64url')}`;
  // Handed on once more: its files are not kept again.
  if ((await replyByKey(db, personId, key)) !== undefined) return;
  const words = ownAnswer(mail.text);
  const { files, leftOut } = await keepFiles(db, actor, mail);
  if (words === '' && files.length === 0)
    throw new Problem(
      422,
      leftOut.length > 0
        ? `It says nothing above what it quotes, and ${list(leftOut, 'and')} cannot be attached.`
        : 'It says nothing above what it quotes.',
    );
  const document = documentOfPlain(words === '' ? '(attached)' : words);
  await writeReply(db, actor, postId, { document, files }, key);
}
