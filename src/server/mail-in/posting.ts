import { EMPTY_CONTENT, contentProblems, MAX_TITLE, type Content } from '../../core/content/announcement.ts';
import { isBlank } from '../../core/content/document.ts';
import { plainSection } from '../../core/content/section.ts';
import { automaticKind, type Automatic } from '../../core/mail-in/automatic.ts';
import { documentOfMailHtml, documentOfPlain } from '../../core/mail-in/written.ts';
import { list } from '../../core/words.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import { allSenders } from '../senders/store.ts';
import { requireOnBoard, visibleBoard } from '../boards/service.ts';
import { isDuplicate, type Database } from '../database/connection.ts';
import { carryOut, isFlood, keyOf, reasonIn, type Outcome } from '../gateways/carrying.ts';
import { note } from '../gateways/noting.ts';
import { takenBefore, type HookInRow } from '../gateways/inStore.ts';
import { callValues } from '../gateways/reading.ts';
import { putUpOnce } from '../posts/puttingUp.ts';
import { Problem } from '../problem.ts';
import { keepFiles } from './files.ts';
import type { ReadMail } from './reading.ts';
import { personWithAddress } from './store.ts';

/** Whether an address is among those listed: itself, or all of its domain. */
const isListed = (from: readonly string[], address: string): boolean =>
  from.some((each) => (each.startsWith('@') ? address.endsWith(each) : each === address));

const titleOf = (mail: ReadMail): string =>
  isBlank(mail.subject) ? 'A mail without a subject' : mail.subject.slice(0, MAX_TITLE);

/** A mail as what goes up or out: its subject as the title, its text, and its files. */
async function contentOf(
  db: Database,
  owner: Actor,
  mail: ReadMail,
  byline: string,
): Promise<{ content: Content; leftOut: string[] }> {
  const { files, leftOut } = await keepFiles(db, owner, mail);
  // What carries HTML says more in it; plain text is what somebody wrote as it is.
  const rich = mail.html === undefined ? null : documentOfMailHtml(mail.html);
  const document = rich ?? documentOfPlain(mail.text);
  const content: Content = {
    ...EMPTY_CONTENT,
    title: titleOf(mail),
    byline,
    sections: [{ ...plainSection(document), files }],
  };
  const errors = contentProblems(content);
  if (errors.length > 0) throw new Problem(422, errors[0]?.detail ?? 'It cannot go up.', { errors });
  return { content, leftOut };
}

/** What may not set anything off, said to whoever reads the log. */
const REFUSED: Record<Automatic, string> = {
  'automatic answer': 'It is an automatic answer.',
  report: 'It is a report of the mail system.',
  'made by a machine': 'A machine made it, and its address is not among those mail is taken from.',
  'sent to many': 'It went to many, and its address is not among those mail is taken from.',
};

interface Taken {
  outcome: Outcome;
  leftOut: string[];
}

/** Puts a mail up as a post of whoever wrote it, with their own rights. */
async function postAs(db: Database, hook: HookInRow, mail: ReadMail, key: string): Promise<Taken> {
  const { target, held } = hook.hook;
  const personId = await personWithAddress(db, mail.from);
  const actor = personId === undefined ? undefined : await actorOf(db, personId);
  if (!actor || target.kind !== 'board')
    throw new Problem(
      403,
      `Mail from ${mail.from === '' ? 'nobody in particular' : mail.from} is not taken here.`,
    );
  const board = await visibleBoard(db, actor, target.boardId).catch((error: unknown) => {
    // Whoever may not see a board is not told of it.
    throw error instanceof Problem && error.status === 404
      ? new Problem(403, `Mail from ${mail.from} is not taken here.`)
      : error;
  });
  requireOnBoard(actor, 'bring in', board);
  const may = requireOnBoard(actor, 'post', board);
  const { content, leftOut } = await contentOf(db, actor, mail, '');
  const post = await putUpOnce(db, actor, board, content, { key, held: held || may.held });
  return {
    outcome: { repeated: post.known, state: post.state, postId: post.id, occurrenceId: null, notFound: [] },
    leftOut,
  };
}

/** Carries a mail out as its way in does with all that comes from a listed address. */
async function carryMail(db: Database, hook: HookInRow, mail: ReadMail, key: string): Promise<Taken> {
  const owner = await actorOf(db, hook.ownerId);
  if (!owner)
    throw new Problem(
      409,
      `${hook.owner}, who looked after this, has left. Somebody else has to take it over.`,
    );
  const kept: { leftOut: string[] } = { leftOut: [] };
  const outcome = await carryOut(db, hook, owner, {
    key,
    content: async () => {
      const senders = hook.hook.senderId === null ? [] : await allSenders(db);
      const byline = senders.find(({ id }) => id === hook.hook.senderId)?.name ?? hook.hook.name;
      const { content, leftOut } = await contentOf(db, owner, mail, byline);
      kept.leftOut = leftOut;
      return { content, notFound: [] };
    },
    values: () =>
      callValues(hook.hook, {
        from: mail.from,
        name: mail.fromName,
        subject: mail.subject,
        text: mail.text.trim(),
        id: mail.messageId,
      }),
  });
  return { outcome, leftOut: kept.leftOut };
}

/** What is kept of a mail in the log. */
const kept = (mail: ReadMail): string =>
  `From: ${mail.from}\nSubject: ${mail.subject}\n\n${mail.text.trim()}`;

/**
 * Takes a mail at the address of a way in. From a listed address it is carried out as what that system sends; from somebody who
 * may post on its board it is their post. Every mail is noted with what became of it; the same one twice is one.
 *
 * @throws 403 where mail of theirs is not taken, 409 where it is off, 422 where it says nothing, 429 past its limit
 */
export async function postByMail(
  db: Database,
  hook: HookInRow,
  mail: ReadMail,
  { attempts, sender, authentic }: { attempts: AttemptLimit; sender: string; authentic: boolean },
): Promise<void> {
  const noted = { messageId: mail.messageId, postId: null, occurrenceId: null };
  try {
    const allowed = hook.hook.mail;
    if (!allowed) throw new Problem(403, `“${hook.hook.name}” takes no mail.`);
    if (!authentic)
      throw new Problem(403, 'The mail server in front could not prove that it comes from where it says.');
    await attempts.hook(hook.id, hook.hook.perMinute);
    if (!hook.on) throw new Problem(409, `“${hook.hook.name}” is switched off.`);
    // Somebody of the organisation whose domain is listed as a whole writes as themselves, and not with the rights of who looks after this.
    const themselves =
      allowed.members &&
      !allowed.from.includes(mail.from) &&
      (await personWithAddress(db, mail.from)) !== undefined;
    const listed = !themselves && isListed(allowed.from, mail.from);
    const automatic = automaticKind(mail.headers, sender);
    if (automatic === 'automatic answer' || automatic === 'report' || (automatic && !listed))
      throw new Problem(403, REFUSED[automatic]);
    if (!listed && !allowed.members)
      throw new Problem(
        403,
        `Mail from ${mail.from === '' ? 'nobody in particular' : mail.from} is not taken here.`,
      );
    const before = mail.messageId === '' ? undefined : await takenBefore(db, hook.id, mail.messageId);
    if (before) {
      await note(db, hook, { ...noted, ...before, outcome: 'repeated', status: 250, reason: null, body: '' });
      return;
    }
    const key = keyOf(hook.id, mail.id);
    const { outcome, leftOut } = await (
      listed ? carryMail(db, hook, mail, key) : postAs(db, hook, mail, key)
    ).catch((error: unknown): Taken => {
      // The same mail at the same moment: the other one is carried out.
      if (!isDuplicate(error)) throw error;
      return {
        outcome: { repeated: true, state: 'on its way', postId: null, occurrenceId: null, notFound: [] },
        leftOut: [],
      };
    });
    await note(db, hook, {
      ...noted,
      postId: outcome.postId,
      occurrenceId: outcome.occurrenceId,
      outcome: outcome.repeated === true ? 'repeated' : 'taken',
      status: 250,
      reason: leftOut.length === 0 ? null : `Not attached: ${list(leftOut, 'and')}.`,
      body: kept(mail),
    });
  } catch (error) {
    if (error instanceof Problem && !(await isFlood(db, hook.id, error.status)))
      await note(db, hook, {
        ...noted,
        outcome: 'refused',
        status: error.status === 429 ? 451 : 550,
        reason: reasonIn(error),
        // What did not prove where it comes from is not kept.
        body: authentic ? kept(mail) : '',
      });
    throw error;
  }
}
