import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { costWords, readingSeconds } from '../../core/sends/cost.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { momentWords } from '../../core/timing/words.ts';
import { count, list, people } from '../../core/words.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';

/** What the button that sends says. */
export function sendWords(forecast: Forecast, plan: Plan): string {
  const verb = plan.timing.kind === 'now' ? 'Send' : plan.timing.kind === 'recurring' ? 'Plan' : 'Schedule';
  const whom = forecast.people > 0 ? people(forecast.people) : '';
  const boards = forecast.boards.length;
  const places = forecast.outside.length;
  if (!whom && boards === 0 && places > 0)
    return `${verb} ${verb === 'Send' ? 'to' : 'for'} ${count(places, 'outside place', 'outside places')}`;
  if (whom) return `${verb} ${verb === 'Send' ? 'to' : 'for'} ${whom}`;
  return `${verb === 'Send' ? 'Post' : 'Schedule'} on ${boards === 1 ? 'one board' : `${boards} boards`}`;
}

/** The last question before it goes out, with the facts in it. */
export function LastQuestion({
  open,
  forecast,
  plan,
  content,
  title,
  openComments,
  zone,
  nowMs,
  busy,
  error,
  onSend,
  onClose,
}: {
  open: boolean;
  forecast: Forecast;
  plan: Plan;
  content: Content;
  /** As it will stand, with its number. */
  title: string;
  /** Comments on the draft that nobody has settled. */
  openComments: number;
  zone: string;
  nowMs: number;
  busy: boolean;
  error: string | undefined;
  onSend: () => void;
  onClose: () => void;
}) {
  const words = sendWords(forecast, plan);
  const readers = Math.max(forecast.people, forecast.onBoards);
  return (
    <Dialog
      open={open}
      title={`${words}?`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep writing
          </button>
          <button type="button" className="btn btn-primary" disabled={busy} onClick={onSend}>
            {words}
          </button>
        </>
      }
    >
      <p className="mb-3 font-semibold" dir="auto">
        {title}
        {content.importance === 'routine' ? '' : ` (${content.importance})`}
      </p>
      <p className="mb-3">
        {forecast.phrases.map((phrase) => [phrase.lead, phrase.words].filter(Boolean).join(' ')).join(', ')}.
      </p>
      <ul className="list-disc pl-5">
        {forecast.people > 0 ? (
          <li>
            {people(forecast.people)}, each once: all in the inbox
            {plan.mail ? `, ${forecast.byMail.toLocaleString('en-GB')} of them by mail too` : ''}.
          </li>
        ) : null}
        {forecast.boards.length > 0 ? (
          <li>
            On{' '}
            {list(
              forecast.boards.map((board) => `${board.name} (${people(board.readers)})`),
              'and',
            )}
            {forecast.people === 0 ? ': read there by whoever opens it, told to nobody by inbox or mail' : ''}
            .
          </li>
        ) : null}
        {forecast.outside.length > 0 ? (
          <li>
            To{' '}
            {list(
              forecast.outside.map((place) => place.name),
              'and',
            )}
            , outside: what is handed over there cannot be fetched back.
          </li>
        ) : null}
        {forecast.toEveryone ? (
          <li className="font-semibold">
            {plan.audience?.kind === 'everyone'
              ? 'It goes to everyone in the organisation.'
              : 'It goes to everyone in the organisation but those left out.'}
          </li>
        ) : null}
        {openComments > 0 ? (
          <li className="text-warning">
            {openComments === 1 ? 'One comment on it is' : `${openComments} comments on it are`} not settled.
          </li>
        ) : null}
        {forecast.contacts > 0 ? (
          <li>{people(forecast.contacts)} linked to them get a copy by mail.</li>
        ) : null}
        {forecast.boards
          .filter((board) => board.parts > 1)
          .map((board) => (
            <li key={board.id}>
              On {board.name} it stands in {board.parts} parts.
            </li>
          ))}
        {forecast.missed.map((missed) => (
          <li key={missed.kind} className="text-warning">
            {missed.detail}
          </li>
        ))}
        {forecast.onLeave > 0 ? (
          <li>
            {people(forecast.onLeave)} among them {forecast.onLeave === 1 ? 'is' : 'are'} on leave.
          </li>
        ) : null}
        {forecast.resting ? (
          <li className="text-info">
            It is quiet then for {people(forecast.resting.n)}: they get it when their quiet hours end.
          </li>
        ) : null}
        <li>
          {plan.timing.kind === 'now'
            ? 'It goes out ten seconds after you press, and can be taken back until then.'
            : forecast.span === null
              ? ''
              : `${plan.timing.kind === 'recurring' ? 'It first goes out' : 'It goes out'} ${
                  forecast.span.lastMs > forecast.span.firstMs
                    ? `from ${momentWords(forecast.span.firstMs, zone, nowMs)} to ${momentWords(forecast.span.lastMs, zone, nowMs)}`
                    : `at ${momentWords(forecast.span.firstMs, zone, nowMs)}`
                } your time, and can be taken back until then.`}
        </li>
        {readers > 0 ? (
          <li>
            Read by all, it takes {costWords(readingSeconds(content.title, content.sections), readers)}.
          </li>
        ) : null}
        {forecast.warnings.map((warning) => (
          <li key={warning.detail} className="text-warning">
            {warning.detail}
          </li>
        ))}
        {forecast.clockNote === null ? null : <li className="text-info">{forecast.clockNote}</li>}
      </ul>
      {error === undefined ? null : (
        <div className="mt-3">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
    </Dialog>
  );
}
