import { Moment } from './Moment.tsx';

/** What stands in the place of a text that was withdrawn after it had gone. */
export function Withdrawn({
  withdrawn,
  zone,
  nowMs,
}: {
  withdrawn: { atMs: number; note: string };
  zone: string;
  nowMs: number;
}) {
  return (
    <p className="mb-3 border-l-4 border-error bg-base-200 px-3 py-2">
      <strong className="text-error">Withdrawn</strong>{' '}
      <Moment at={withdrawn.atMs} zone={zone} nowMs={nowMs} />: <span dir="auto">{withdrawn.note}</span> What
      it said does not hold any more.
    </p>
  );
}
