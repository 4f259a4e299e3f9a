import { tallyWords } from '../../core/asks/roll.ts';
import type { Desk } from '../../core/desk/desk.ts';
import { shortDate } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { count } from '../../core/words.ts';
import { latelyWords } from '../../core/desk/lately.ts';
import { SetAside } from './SetAside.tsx';
import { Notice } from '../../ui/Notice.tsx';

function Lately({
  lately,
  zone,
  nowMs,
}: {
  lately: NonNullable<Desk['lately']>;
  zone: string;
  nowMs: number;
}) {
  return (
    <section aria-labelledby="lately">
      <h3 id="lately" className="mt-6 text-base">
        While you were away
      </h3>
      <p className="mt-2">
        Since <Moment at={lately.sinceMs} zone={zone} nowMs={nowMs} />:{' '}
        <a className="link" href="/automations">
          {latelyWords(lately)}
        </a>
      </p>
    </section>
  );
}

function Drafts({ drafts, zone, nowMs }: { drafts: Desk['drafts']; zone: string; nowMs: number }) {
  return (
    <>
      <h3 className="mt-6 text-base">Drafts</h3>
      {drafts.length === 0 ? (
        <p className="text-quiet">No drafts.</p>
      ) : (
        <ul className="mt-2">
          {drafts.slice(0, 8).map((draft) => (
            <li key={draft.id} className="border-t border-base-300 py-2">
              <a href={`/write/${draft.id}`} className="link-quiet" dir="auto">
                {draft.title || 'Without a title'}
              </a>
              <p className="text-sm text-quiet">
                {draft.savedBy}, <Moment at={draft.savedMs} zone={zone} nowMs={nowMs} />
              </p>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** What on the desk needs somebody: what failed, waits, or is handed on; and the drafts. */
export function NeedsYou({ desk }: { desk: Desk }) {
  const { needs, drafts, engine, zone, nowMs, reviews, calls, behind, hollow, boards, stale, questions } =
    desk;
  const { aside, outside, lately } = desk;
  return (
    <aside aria-labelledby="needs" className="lg:border-l lg:border-base-300 lg:pl-6">
      <h2 id="needs">Needs you</h2>
      {engine.running === 0 ? (
        <div className="mt-3">
          <Notice tone="error">No engine is running: nothing goes out until one is started.</Notice>
        </div>
      ) : null}
      {engine.mailPaused === null ? null : (
        <div className="mt-3">
          <Notice tone="warning">Mail is waiting and will go by itself. {engine.mailPaused}</Notice>
        </div>
      )}
      <ul className="mt-3">
        {needs.map((need) => (
          <li key={`${need.occurrenceId}${need.state}`} className="border-t border-base-300 py-2">
            <a href={`/sends/${need.occurrenceId}`} className="link-quiet" dir="auto">
              {need.title}
            </a>
            <p className={need.state === 'failed' ? 'text-error' : 'text-warning'}>
              {need.state === 'failed'
                ? `${count(need.n, 'mail', 'mails')} failed; the inbox has it`
                : `${count(need.n, 'mail', 'mails')} waiting`}
            </p>
          </li>
        ))}
        {aside.map((each) => (
          <SetAside key={`${each.kind}${each.subjectId}`} aside={each} zone={zone} nowMs={nowMs} />
        ))}
        {hollow.map((each) => (
          <li key={each.occurrenceId} className="border-t border-base-300 py-2">
            <a href={`/sends/${each.occurrenceId}`} className="link-quiet" dir="auto">
              {each.title}
            </a>
            <p className="text-error">{each.why}</p>
          </li>
        ))}
        {outside.map((each) => (
          <li key={`${each.path}${each.name}`} className="border-t border-base-300 py-2">
            <a href={each.path} className="link-quiet" dir="auto">
              {each.name}
            </a>
            <p className="text-error" dir="auto">
              {each.why}
            </p>
          </li>
        ))}
        {boards.map((board) => (
          <li key={`b${board.id}`} className="border-t border-base-300 py-2">
            <a href={`/boards/${board.id}`} className="link-quiet" dir="auto">
              {board.name}
            </a>
            <p className="text-warning">
              {count(board.waiting, 'post or report waits', 'posts and reports wait')} for a moderator
            </p>
          </li>
        ))}
        {questions > 0 ? (
          <li className="border-t border-base-300 py-2">
            <a href="/shelf/desk" className="link-quiet">
              The shelf
            </a>
            <p className="text-warning">
              {count(questions, 'question waits', 'questions wait')} for an answer
            </p>
          </li>
        ) : null}
        {stale.map((pin) => (
          <li key={`s${pin.postId}`} className="border-t border-base-300 py-2">
            <a href={`/posts/${pin.postId}`} className="link-quiet" dir="auto">
              {pin.title}
            </a>
            <p className="text-sm text-quiet">
              Pinned on {pin.board} since {shortDate(pin.pinnedMs, zone)}: does it still hold?
            </p>
          </li>
        ))}
        {reviews.map((review) => (
          <li key={review.id} className="border-t border-base-300 py-2">
            <a href={`/write/${review.id}`} className="link-quiet" dir="auto">
              {review.title || 'Without a title'}
            </a>
            <p className="text-warning">{review.by} hands it on: clear it, or return it</p>
          </li>
        ))}
        {calls.map((call, i) => (
          <li key={i} className="border-t border-base-300 py-2">
            <a href={`/write/${call.announcementId}`} className="link-quiet" dir="auto">
              {call.author} calls you
            </a>
            <p className="line-clamp-2 text-sm text-quiet" dir="auto">
              {call.text}
            </p>
          </li>
        ))}
        {behind.map((roll) => (
          <li key={roll.occurrenceId} className="border-t border-base-300 py-2">
            <a href={`/answers/${roll.occurrenceId}`} className="link-quiet" dir="auto">
              {roll.title}
            </a>
            <p className="text-warning">
              {tallyWords(roll.tally, roll.kind)}, by{' '}
              <Moment at={roll.deadlineMs} zone={zone} nowMs={nowMs} />
            </p>
          </li>
        ))}
      </ul>
      {needs.length +
        aside.length +
        hollow.length +
        reviews.length +
        calls.length +
        behind.length +
        boards.length +
        stale.length +
        questions +
        outside.length ===
        0 && engine.running > 0 ? (
        <p className="text-quiet">Nothing failed, nothing is late.</p>
      ) : null}
      {lately ? <Lately lately={lately} zone={zone} nowMs={nowMs} /> : null}
      <Drafts drafts={drafts} zone={zone} nowMs={nowMs} />
    </aside>
  );
}
