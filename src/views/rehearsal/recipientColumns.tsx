import { createColumnHelper } from '@tanstack/react-table';
import type { RehearsalPage } from '../../core/sends/rehearsal.ts';
import { dateWords, timeWords, zoneWords } from '../../core/timing/words.ts';

export type Recipient = RehearsalPage['people'][number];

const utc = (ms: number): string => new Date(ms).toISOString().slice(0, 16).replace('T', ' ');

function When({ person: { dueMs, zone } }: { person: Recipient }) {
  if (dueMs === null) return <span className="text-error">not</span>;
  return (
    <>
      <time className="block" title={`${utc(dueMs)} UTC`}>
        {timeWords(dueMs, zone)}
      </time>
      <span className="figure block text-xs text-quiet">
        <span className="max-sm:hidden">{utc(dueMs).slice(5, 10)} </span>
        {utc(dueMs).slice(11)} UTC
      </span>
    </>
  );
}

function Who({ person: { name, station, zone, dueMs } }: { person: Recipient }) {
  return (
    <>
      <span className="block truncate font-semibold" dir="auto">
        {name}
      </span>
      <span className="block truncate text-sm text-quiet">
        {[station, zoneWords(zone), dueMs === null ? '' : dateWords(dueMs, zone)].filter(Boolean).join(', ')}
      </span>
    </>
  );
}

function Why({ person: { reason, note } }: { person: Recipient }) {
  return (
    <>
      <span className="block truncate text-quiet" title={reason}>
        {reason}
      </span>
      {note === null ? null : (
        <span className="block truncate text-warning" title={note}>
          {note}
        </span>
      )}
    </>
  );
}

const column = createColumnHelper<Recipient>();

/** When it comes to a reader, to whom, by which ways and why. */
export const RECIPIENT_COLUMNS = [
  column.display({
    id: 'when',
    header: 'When',
    cell: ({ row }) => <When person={row.original} />,
    meta: { place: 'border-r border-base-300 pr-3 text-right' },
  }),
  column.display({ id: 'who', header: 'Who', cell: ({ row }) => <Who person={row.original} /> }),
  column.accessor((person) => person.methods.join(' and '), {
    id: 'how',
    header: 'By',
    meta: { place: 'text-sm max-sm:hidden' },
  }),
  column.display({
    id: 'why',
    header: 'Why',
    cell: ({ row }) => <Why person={row.original} />,
    meta: { place: 'text-sm' },
  }),
];
