import { Moment } from './Moment.tsx';

/** The note over a text that was corrected after it had gone. */
export function Corrected({
  corrected,
  zone,
  nowMs,
}: {
  corrected: { atMs: number; note: string };
  zone: string;
  nowMs: number;
}) {
  return (
    <p className="mb-3 border-l-4 border-info bg-base-200 px-3 py-1 text-sm">
      <strong>Corrected</strong> <Moment at={corrected.atMs} zone={zone} nowMs={nowMs} />:{' '}
      <span dir="auto">{corrected.note}</span>
    </p>
  );
}
