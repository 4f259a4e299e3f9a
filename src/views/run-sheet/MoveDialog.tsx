import { useState } from 'react';
import type { RunSheetRow } from '../../core/sends/send.ts';
import { resolveMoment, wallAt } from '../../core/timing/wallTime.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { request, exactWordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { WallFields } from '../write/MomentFields.tsx';

/** What can be set to another time. */
type Movable = Pick<RunSheetRow, 'occurrenceId' | 'title' | 'dueMs' | 'localWall'> & { recurs: unknown };

/** The wall-clock time a mark stands for when it is moved by as much as from its instant to another. */
function wallMoved(row: Movable, toMs: number, zone: string): string {
  if (row.localWall === null) return wallAt(toMs, zone);
  const moved = Date.parse(`${row.localWall}:00Z`) + (toMs - row.dueMs);
  return new Date(moved).toISOString().slice(0, 16);
}

/** Asks whether something planned is to go at another time, and which; the server checks it as it checks editing. */
export function MoveDialog({
  row,
  toMs,
  zone,
  nowMs,
  onDone,
  onClose,
}: {
  row: Movable;
  toMs: number;
  zone: string;
  nowMs: number;
  onDone: (warnings: string[]) => void;
  onClose: () => void;
}) {
  const [wall, setWall] = useState(() => wallMoved(row, toMs, zone));
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const move = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const { warnings } = await request('POST', `/api/sends/${row.occurrenceId}/move`, {
        wall,
        zone,
      });
      onDone(warnings);
    } catch (problem) {
      setError(exactWordsOf(problem));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title="Move it to another time?"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-primary" disabled={busy} onClick={() => void move()}>
            Move it
          </button>
        </>
      }
    >
      <p className="mb-3 font-semibold" dir="auto">
        {row.title}
      </p>
      <p className="mb-3">
        It stands <Moment at={row.dueMs} zone={zone} nowMs={nowMs} />
        {row.localWall === null ? '' : `, which is ${row.localWall.slice(11)} where each reader is`}.
        {row.recurs ? ' Only this one moves; the others go on by their rule.' : ''}
      </p>
      <div className="flex flex-wrap gap-3">
        <WallFields wall={wall} onChange={setWall} />
      </div>
      <p className="mt-2 text-sm text-quiet">
        {row.localWall === null
          ? `In ${zoneWords(zone)}: ${momentWords(resolveMoment({ wall, zone }).epochMs, zone, nowMs)}, ${momentWords(resolveMoment({ wall, zone }).epochMs, 'UTC', nowMs)} UTC.`
          : 'The time where each reader is.'}
      </p>
      {error === undefined ? null : (
        <div className="mt-3">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
    </Dialog>
  );
}
